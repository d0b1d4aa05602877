import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { theCharacter, boneElements } from '../../../contracts/finding';
import { inUnit, lengthText, smallLengthText, unitSign } from '../../../contracts/units';
import { defineCheck } from '../../../contracts/check';
import { OVERLAP } from '../settings';
import { overlapOf } from '../survey';

/**
 * Body and skeleton lying on each other: the share of joints inside the body, and how far out the others are.
 */
export const apartCheck = defineCheck({
  id: 'apart',
  room: 'placement',
  title: 'Skeleton inside the body',
  why: 'A limb turns about its joint: where the joint lies outside of the limb, the limb swings off instead of bending.',
  advice:
    'Where the skeleton has another size, bring it to the body’s first; a single joint that lies outside is moved by hand in Skeleton.',
  settings: object({ ...OVERLAP }),
  reads: [...SHAPE_AT_REST, 'names', 'polygons'],
  measures(character) {
    const overlap = overlapOf(character);
    return {
      'overlap.share': overlap && overlap.inside / overlap.joints,
      'overlap.outside': overlap && overlap.worst,
    };
  },
  run(character, brief) {
    const overlap = overlapOf(character);
    if (!overlap || !brief.overlap) return [];
    const share = overlap.inside / overlap.joints;
    if (share >= brief.overlap.share && overlap.worst <= brief.overlap.outside) return [];
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: '%',
        elements: [boneElements(overlap.outside)],
        count: overlap.outside.length,
        message: `${overlap.outside.length} of ${overlap.joints} joints lie outside the body, “${character.nodes[overlap.worstNode]?.name}” the farthest by ${lengthText(overlap.worst, brief.unit)}; the brief wants ${Number((brief.overlap.share * 100).toPrecision(3))} % inside and ${smallLengthText(brief.overlap.outside, brief.unit)} at most`,
        measured: share * 100,
        expected: brief.overlap.share * 100,
        evidence: [
          {
            label: 'Joints inside the body',
            now: share * 100,
            brief: `≥ ${brief.overlap.share * 100}`,
            unit: '%',
          },
          {
            label: 'Outside it, on average',
            now: inUnit(overlap.mean, brief.unit),
            brief: '—',
            unit: unitSign(brief.unit),
          },
          {
            label: 'Outside it, at most',
            now: inUnit(overlap.worst, brief.unit),
            brief: `≤ ${inUnit(brief.overlap.outside, brief.unit)}`,
            unit: unitSign(brief.unit),
          },
        ],
      },
    ];
  },
});
