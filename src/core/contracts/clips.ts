/** What a brief says of the clips of a character. */
import { type InferType, number, object } from 'yup';
import { pattern, setting } from './setting';

/** Common practice. Every one may be null: not asked. */
export const USUAL_CLIPS = {
  rate: null,
  turn: 60,
  shift: 0.17,
  scale: 0.001,
  travel: null,
  loops: '(?i)(^|[^a-z])(loop|cycle|idle)',
  gap: 2,
} as const;

/** What a brief asks of clips; null where it asks nothing. */
export const CLIPS = object({
  rate: number()
    .min(1)
    .max(1000)
    .nullable()
    .default(USUAL_CLIPS.rate)
    .meta(
      setting(
        'Frames a second',
        'count',
        'is',
        'Every key stands on a frame of so many a second; off where the game takes keys wherever they are.',
      ),
    ),
  turn: number()
    .min(1)
    .max(180)
    .nullable()
    .default(USUAL_CLIPS.turn)
    .meta(
      setting(
        'A joint turns at most',
        'angle',
        'most',
        'In a thirtieth of a second, unless it turns as fast before and behind.',
      ),
    ),
  shift: number()
    .min(0)
    .nullable()
    .default(USUAL_CLIPS.shift)
    .meta(
      setting(
        'A joint is shifted at most',
        'share',
        'most',
        'Of the figure’s height, in a thirtieth of a second, unless it goes as fast before and behind.',
      ),
    ),
  scale: number()
    .min(0)
    .nullable()
    .default(USUAL_CLIPS.scale)
    .meta(
      setting(
        'Bones are scaled at most by',
        'share',
        'most',
        'How far clips may scale a bone, as a share of its size at rest: 0.2 is a fifth longer. Off where bones squash and stretch.',
      ),
    ),
  travel: number()
    .min(0)
    .nullable()
    .default(USUAL_CLIPS.travel)
    .meta(
      setting(
        'A clip carries the figure at most',
        'length',
        'most',
        'Over the ground, from its first moment to its last; for games that move figures themselves. Off where clips may.',
      ),
    ),
  loops: pattern('Clips that go round', 'Found in the names of clips that must end where they begin.')
    .nullable()
    .default(USUAL_CLIPS.loops),
  gap: number()
    .min(0)
    .max(180)
    .default(USUAL_CLIPS.gap)
    .meta(
      setting(
        'A clip that goes round closes within',
        'angle',
        'most',
        'How far any joint may be at the end from where it was at the beginning; a degree of shift is the three hundredth part of the figure’s height.',
      ),
    ),
})
  .nullable()
  .default(null)
  .meta({ label: 'Clips' });

/** What applies where a brief asks something of clips. */
export type ClipWishes = NonNullable<InferType<typeof CLIPS>>;
