import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { theCharacter } from '../../../contracts/finding';
import { inUnit, unitSign } from '../../../contracts/units';
import { defineCheck } from '../../../contracts/check';
import { SKELETON_SHARE } from '../settings';
import { bodyHeight, fittingHeight, skeletonHeight } from '../survey';

/** Height of the skeleton against the height of the body it should fill. */
export const skeletonHeightCheck = defineCheck({
  id: 'skeleton-height',
  room: 'placement',
  title: 'Body and skeleton of one size',
  why: 'A skeleton of another size than its body was scaled alone: the joints no longer sit in the limbs, and clips made for one do not fit the other.',
  kinds: ['two-legged'],
  settings: object({ ...SKELETON_SHARE }),
  reads: [...SHAPE_AT_REST, 'names'],
  measures(character) {
    const [body, skeleton] = [bodyHeight(character), skeletonHeight(character)];
    const isBound = character.nodes.some((node) => node.skin >= 0);
    const share = body && skeleton !== null && isBound ? skeleton / body : null;
    return { 'skeletonShare.least': share, 'skeletonShare.most': share };
  },
  run(character, brief) {
    const body = bodyHeight(character);
    const height = skeletonHeight(character);
    if (!brief.skeletonShare || !body || height === null || !character.nodes.some((node) => node.skin >= 0))
      return [];
    const share = height / body;
    const { least, most } = brief.skeletonShare;
    if (share >= least && share <= most) return [];
    const percent = (x: number) => `${(x * 100).toFixed(0)} %`;
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: '%',
        count: 1,
        message: `The skeleton is ${percent(share)} as tall as the body; it should be ${percent(least)} to ${percent(most)}`,
        measured: share * 100,
        expected: (share < least ? least : most) * 100,
        evidence: [
          {
            label: 'Height of the body',
            now: inUnit(body, brief.unit),
            brief: '—',
            unit: unitSign(brief.unit),
          },
          {
            label: 'Height of the skeleton',
            now: inUnit(height, brief.unit),
            brief: inUnit(body * (share < least ? least : most), brief.unit),
            unit: unitSign(brief.unit),
          },
        ],
        remedies: [
          { id: 'fit-skeleton', params: { height: fittingHeight(character, body * least, body * most) } },
        ],
      },
    ];
  },
});
