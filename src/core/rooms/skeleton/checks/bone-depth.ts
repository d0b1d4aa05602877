import { object } from 'yup';
import { type Found, defineCheck } from '../../../contracts/check';
import { boneElements, theNode } from '../../../contracts/finding';
import { LIMITS } from '../../../contracts/settings';
import { bonesOf, parentBone } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';

/** How many bones lie from the root to each bone, itself among them. */
function depthsOf(character: Character): Map<number, number> {
  const depths = new Map<number, number>();
  const depthOf = (bone: number): number => {
    const way: number[] = [];
    let at = bone;
    while (at >= 0 && !depths.has(at)) {
      way.push(at);
      at = parentBone(character.nodes, at);
    }
    let depth = at < 0 ? 0 : (depths.get(at) ?? 0);
    for (const node of way.reverse()) depths.set(node, ++depth);
    return depth;
  };
  for (const bone of bonesOf(character)) depthOf(bone);
  return depths;
}

/** Bones in a row from the root to an end, against the most that the machine follows. */
export const boneDepthCheck = defineCheck({
  id: 'bone-depth',
  room: 'skeleton',
  title: 'Depth of the tree',
  why: 'Every bone waits for the one above it: a machine that follows so many in a row leaves those beyond where they were.',
  advice: 'Fold bones of the longest chain into the one above, on the page By hand.',
  settings: object({ ...LIMITS }),
  reads: ['tree', 'names'],
  measures(character) {
    const depths = [...depthsOf(character).values()];
    return { 'limits.depth': depths.length === 0 ? null : Math.max(...depths) };
  },
  run(character, { limits: { depth: most } }): Found[] {
    if (most === null) return [];
    const depths = depthsOf(character);
    const beyond = [...depths].filter(([, depth]) => depth > most);
    if (beyond.length === 0) return [];
    const [deepest, depth] = beyond.reduce((far, other) => (other[1] > far[1] ? other : far));
    const { name } = character.nodes[deepest];
    return [
      {
        gravity: 'worth',
        subject: theNode(character, deepest),
        unit: 'bones',
        count: beyond.length,
        message: `“${name}” ends a row of ${depth} bones from its root; the brief allows ${most}, and ${beyond.length === 1 ? 'one lies' : `${beyond.length} lie`} beyond`,
        measured: depth,
        expected: most,
        elements: [boneElements(beyond.map(([bone]) => bone))],
        evidence: [{ label: 'Bones in the longest row', now: depth, brief: `≤ ${most}`, unit: 'bones' }],
        remedies: [{ id: 'fold-bones', params: { bones: beyond.map(([bone]) => bone) } }],
      },
    ];
  },
});
