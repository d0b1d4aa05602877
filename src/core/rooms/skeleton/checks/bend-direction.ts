import { object } from 'yup';
import { degreesBetween } from '../../../anatomy/bearing';
import { type Landmark, bearingOf, landmarksOf } from '../../../anatomy/landmarks';
import { bodyKindOf } from '../../../anatomy/body-kind';
import { restPlace } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { LANDMARKS } from '../../../contracts/aspect';
import { defineCheck } from '../../../contracts/check';
import { boneElements, theNode } from '../../../contracts/finding';
import { type Vec3, dot, length, normalise, subtract } from '../../../geometry/matrix';

const LIMBS = [
  { what: 'elbow', above: 'upperarm', joint: 'lowerarm', below: 'hand', ahead: -1 },
  { what: 'knee', above: 'upperleg', joint: 'lowerleg', below: 'foot', ahead: 1 },
] as const;

/** Straighter than this, degrees, a limb leans no way. */
const STRAIGHT = 1.5;

/** A joint off its limb's line within 60° of the wrong way leans the wrong way; to the side nothing is said. */
const WRONG = Math.cos(Math.PI / 3);

/** A knee or an elbow that leans against the way it bends. */
interface WrongBend {
  readonly what: 'elbow' | 'knee';
  readonly node: number;
  readonly bend: number;
  /** The same distance off on the other side of the limb's line, world space. */
  readonly place: Vec3;
}

function wrongBends(character: Character): WrongBend[] {
  const bearing = bearingOf(character);
  if (!bearing || bodyKindOf(character).kind !== 'two-legged') return [];
  const marks = landmarksOf(character);
  return LIMBS.flatMap(({ what, above, joint, below, ahead }) =>
    ['left', 'right'].flatMap((side): WrongBend[] => {
      const nodes = [above, joint, below].map((part) => marks.get(`${part} ${side}` as Landmark));
      if (nodes.some((node) => node === undefined)) return [];
      const [from, at, to] = (nodes as number[]).map((node) => restPlace(character.nodes, node) as Vec3);
      const bend = degreesBetween(subtract(at, from), subtract(to, at));
      if (bend < STRAIGHT) return [];
      const line = normalise(subtract(to, from));
      const along = dot(subtract(at, from), line);
      const off = subtract(
        at,
        [0, 1, 2].map((axis) => from[axis] + along * line[axis]),
      );
      if (length(off) < 1e-6 || dot(normalise(off), bearing.forward) * ahead > -WRONG) return [];
      const place = [0, 1, 2].map((axis) => at[axis] - 2 * off[axis]) as unknown as Vec3;
      return [{ what, node: nodes[1] as number, bend, place }];
    }),
  );
}

/** Knees and elbows that are bent at rest are bent the way they go. */
export const bendDirectionCheck = defineCheck({
  id: 'bend-direction',
  room: 'skeleton',
  title: 'Knees and elbows lean the way they bend',
  why: 'A solver bends a limb further the way it leans at rest: a knee that leans back breaks on the first step.',
  kinds: ['two-legged'],
  settings: object({}),
  reads: [...LANDMARKS],
  run: (character) =>
    wrongBends(character).map(({ what, node, bend, place }) => ({
      gravity: 'worth' as const,
      subject: theNode(character, node),
      unit: '°',
      elements: [boneElements([node])],
      message: `The ${what} “${character.nodes[node].name}” leans ${bend.toFixed(1)}° against the way it bends`,
      measured: -bend,
      expected: 'a bend the way it goes',
      evidence: [{ label: 'Bent at rest', now: -bend, brief: '> 0', unit: '°' }],
      remedies: [{ id: 'move-joint', params: { bone: node, place, alone: true } }],
    })),
});
