import { object } from 'yup';
import type { Influences } from '../../../character/model';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { influencesFrom } from '../../../geometry/influences';
import { boundNodes } from '../../../character/held-by';

/** Entries of one bone at one point added up. */
export const joinEntries = defineRemedy({
  id: 'join-entries',
  room: 'weights',
  title: 'List every bone once',
  does: 'Where a point lists a bone more than once its weights are added up. Nothing moves.',
  params: object({}),
  rows: (character) => [
    {
      label: 'Entries too many',
      value: character.meshes.reduce(
        (sum, { influences }) => sum + (influences ? doubledIn(influences) : 0),
        0,
      ),
      unit: '',
    },
  ],
  promises: (character) => promise(['weights'], { meant: boundNodes(character) }),
  apply(character) {
    let changed = 0;
    const meshes = character.meshes.map((mesh) => {
      if (!mesh.influences || doubledIn(mesh.influences) === 0) return mesh;
      changed++;
      return { ...mesh, influences: joined(mesh.influences) };
    });
    if (changed === 0) throw new NothingToDo('Every point lists each of its bones once.');
    return { ...character, meshes };
  },
});

function doubledIn({ offsets, joint, weight }: Influences): number {
  let doubled = 0;
  for (let vertex = 0; vertex + 1 < offsets.length; vertex++) {
    const seen = new Set<number>();
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
      if (!(weight[k] > 0)) continue;
      if (seen.has(joint[k])) doubled++;
      seen.add(joint[k]);
    }
  }
  return doubled;
}

function joined({ offsets, joint, weight }: Influences): Influences {
  return influencesFrom(
    Array.from({ length: offsets.length - 1 }, (_, vertex) => {
      const row = new Map<number, number>();
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++)
        row.set(joint[k], (row.get(joint[k]) ?? 0) + weight[k]);
      return [...row];
    }),
  );
}
