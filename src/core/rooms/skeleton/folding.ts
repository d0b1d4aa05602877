import { branchOf } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import { type Promised, promise } from '../../contracts/remedy';

/** What folding bones promises: at rest nothing moves; in motion, what they carried or held may. */
export function foldingPromises({ nodes, skins }: Character, bones: readonly number[]): Promised {
  const folded = new Set(bones);
  const inside = branchOf(nodes, bones);
  const isConcerned = (i: number) => {
    const { skin } = nodes[i];
    return skin < 0 ? inside[i] : skins[skin].joints.some((joint) => folded.has(joint));
  };
  return promise(
    ['tree', 'names', 'places', 'shows', 'weights', 'joints', 'binds', 'clips', 'sets', 'kind', 'carried'],
    { meant: nodes.flatMap(({ mesh }, i) => (mesh >= 0 && isConcerned(i) ? [i] : [])), holds: 'at rest' },
  );
}
