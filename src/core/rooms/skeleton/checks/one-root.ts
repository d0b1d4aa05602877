import { number, object } from 'yup';
import { type RemedyCall, boneElements, theCharacter, theNode } from '../../../contracts/finding';
import { allowedText, inUnit, lengthText, unitSign } from '../../../contracts/units';
import { type Found, defineCheck } from '../../../contracts/check';
import { setting } from '../../../contracts/setting';
import { bonesOf, branchOf, parentBone, restPlace, weightOfNodes } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { distance, length } from '../../../geometry/matrix';

/** How many root bones there may be, and how far the one nearest the origin may lie from it, metres. */
const ROOT = object({
  count: number()
    .integer()
    .min(1)
    .required()
    .meta(setting('Most roots', 'count', 'most', 'So many bones may have no bone above them.')),
  originTolerance: number()
    .min(0)
    .required()
    .meta(setting('Off the origin', 'length', 'most', 'The root nearest the origin may lie so far from it.')),
})
  .nullable()
  .default(null)
  .meta({ label: 'Root' });

/** The root under which most bones hang; of several the first. */
function mainRoot(character: Character, roots: readonly number[]): number {
  const size = (root: number) => branchOf(character.nodes, [root]).filter(Boolean).length;
  return roots.reduce((a, b) => (size(b) > size(a) ? b : a));
}

/** Hanging the smaller of two skeletons on the bone of the other that stands nearest to where it begins. */
function graftOf(character: Character, roots: readonly number[]): RemedyCall[] {
  if (roots.length !== 2) return [];
  const main = mainRoot(character, roots);
  const other = roots[0] === main ? roots[1] : roots[0];
  const weight = weightOfNodes(character);
  const inside = branchOf(character.nodes, [main]);
  const bones = bonesOf(character).filter((bone) => inside[bone] && weight[bone] > 0);
  // A root in the origin does not say where its branch belongs.
  const own = branchOf(character.nodes, [other]);
  const [first] = bonesOf(character).filter((bone) => weight[bone] > 0 && own[bone]);
  if (bones.length === 0 || first === undefined) return [];
  const begin = restPlace(character.nodes, first);
  const away = (bone: number) => distance(restPlace(character.nodes, bone), begin);
  const under = bones.reduce((best, bone) => (away(bone) < away(best) ? bone : best));
  // A root that only held its skeleton together has nothing left to hold; games drop what carries nothing.
  const surplus = weight[other] > 0 ? [] : [other];
  return [{ id: 'graft', params: { bone: other, under, surplus } }];
}

/** One root bone, at the world origin. */
export const oneRootCheck = defineCheck({
  id: 'one-root',
  room: 'skeleton',
  title: 'One root, at the origin',
  why: 'Games move a character by its root: a second root stays behind, and a root away from the origin turns the character about the wrong place.',
  waiverReasons: [
    'The game joins the skeletons itself.',
    'The roots are separate on purpose; each is moved by its own clip.',
  ],
  settings: object({ root: ROOT }),
  reads: ['tree', 'names', 'places', 'joints', 'shows', 'weights'],
  measures(character) {
    const roots = bonesOf(character).filter((bone) => parentBone(character.nodes, bone) < 0);
    if (roots.length === 0) return { 'root.count': null, 'root.originTolerance': null };
    const away = roots.map((root) => length(restPlace(character.nodes, root)));
    return { 'root.count': roots.length, 'root.originTolerance': Math.min(...away) };
  },
  run(character, brief) {
    if (!brief.root) return [];
    const bones = bonesOf(character);
    const roots = bones.filter((bone) => parentBone(character.nodes, bone) < 0);
    const out: Found[] = [];
    if (roots.length > brief.root.count) {
      out.push({
        gravity: 'stops',
        subject: theCharacter(character),
        unit: 'roots',
        elements: [boneElements(roots)],
        message: `The skeleton has ${roots.length} roots: ${roots
          .slice(0, 4)
          .map((root) => character.nodes[root].name)
          .join(', ')}${roots.length > 4 ? ' …' : ''}`,
        measured: roots.length,
        expected: brief.root.count,
        evidence: [{ label: 'Root bones', now: roots.length, brief: brief.root.count, unit: 'roots' }],
        remedies: [
          ...graftOf(character, roots),
          { id: 'join-roots', params: { bone: mainRoot(character, roots) } },
          { id: 'add-root', params: {} },
        ],
        mark: 'count',
      });
    }
    if (roots.length > 0) {
      const root = roots.reduce((a, b) =>
        length(restPlace(character.nodes, b)) < length(restPlace(character.nodes, a)) ? b : a,
      );
      const away = length(restPlace(character.nodes, root));
      if (away > brief.root.originTolerance) {
        out.push({
          gravity: 'stops',
          subject: theNode(character, root),
          unit: unitSign(brief.unit),
          elements: [boneElements([root])],
          message: `The root “${character.nodes[root].name}” lies ${lengthText(away, brief.unit)} from the origin; ${allowedText(brief.root.originTolerance, brief.unit)}`,
          measured: inUnit(away, brief.unit),
          expected: 0,
          evidence: [
            { label: 'Root to origin', now: inUnit(away, brief.unit), brief: 0, unit: unitSign(brief.unit) },
          ],
          // What carries weight is a bone of the body: it keeps its place, and a root of its own comes above it.
          remedies: [
            ...(roots.length === 1 && weightOfNodes(character)[root] > 0
              ? [{ id: 'add-root', params: {} }]
              : []),
            { id: 'root-to-origin', params: { bone: root } },
            ...(roots.length === 1 && !(weightOfNodes(character)[root] > 0)
              ? [{ id: 'add-root', params: {} }]
              : []),
          ],
          mark: 'place',
        });
      }
    }
    return out;
  },
});
