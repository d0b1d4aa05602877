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
    const o = overlapOf(character);
    return { 'overlap.share': o && o.inside / o.joints, 'overlap.outside': o && o.worst };
  },
  run(character, brief) {
    const o = overlapOf(character);
    if (!o || !brief.overlap) return [];
    const share = o.inside / o.joints;
    if (share >= brief.overlap.share && o.worst <= brief.overlap.outside) return [];
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: '%',
        elements: [boneElements(o.outside)],
        count: o.outside.length,
        message: `${o.outside.length} of ${o.joints} joints lie outside the body, “${character.nodes[o.worstNode]?.name}” the farthest by ${lengthText(o.worst, brief.unit)}; the brief wants ${Number((brief.overlap.share * 100).toPrecision(3))} % inside and ${smallLengthText(brief.overlap.outside, brief.unit)} at most`,
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
            now: inUnit(o.mean, brief.unit),
            brief: '—',
            unit: unitSign(brief.unit),
          },
          {
            label: 'Outside it, at most',
            now: inUnit(o.worst, brief.unit),
            brief: `≤ ${inUnit(brief.overlap.outside, brief.unit)}`,
            unit: unitSign(brief.unit),
          },
        ],
      },
    ];
  },
});
