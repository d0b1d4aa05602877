import { number, object } from 'yup';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { boundNodes } from '../../../character/held-by';
import { type SumsBrief } from '../../../contracts/weight-sums';
import type { Character } from '../../../character/model';
import { limitInfluences } from '../../../geometry/influences';
import { liveAt, sumAt } from '../checks/vertices';

function count(
  character: Character,
  wrong: (influences: NonNullable<Character['meshes'][number]['influences']>, value: number) => boolean,
): number {
  let count = 0;
  for (const mesh of character.meshes)
    if (mesh.influences)
      for (let vertex = 0; vertex < mesh.vertexCount; vertex++) if (wrong(mesh.influences, vertex)) count++;
  return count;
}

/** The most bones that one vertex holds. */
function most(character: Character): number {
  let count = 0;
  for (const mesh of character.meshes)
    if (mesh.influences)
      for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
        count = Math.max(count, liveAt(mesh.influences, vertex));
  return count;
}

/** Keeps the heaviest influences of every vertex, drops dust, and scales the rest to sum to one. */
export const limitInfluencesRemedy = defineRemedy({
  id: 'limit-influences',
  room: 'weights',
  title: 'Limit and normalise',
  does: 'Every point keeps its heaviest bones up to the limit; what is left is scaled to sum to one.',
  params: object({
    limit: number()
      .integer()
      .min(1)
      .max(64)
      .default(4)
      .meta({ quantity: 'count', label: 'Bones a point may keep' }),
    dust: number().min(0).max(0.5).default(0).meta({ quantity: 'weight', label: 'Drop weights up to' }),
  }),
  rows(character, { limit }, brief: SumsBrief) {
    const { sumTolerance } = brief.weights;
    return [
      {
        label: 'Vertices over the limit',
        value: count(character, (influences, vertex) => liveAt(influences, vertex) > limit),
        unit: '',
      },
      { label: 'Most bones at one vertex', value: most(character), unit: 'bones' },
      {
        label: 'Sums that are not one',
        value: count(
          character,
          (influences, vertex) =>
            liveAt(influences, vertex) > 0 && Math.abs(sumAt(influences, vertex) - 1) > sumTolerance,
        ),
        unit: '',
      },
    ];
  },
  promises: (character) => promise(['weights'], { meant: boundNodes(character) }),
  apply(character, { limit, dust }) {
    let changed = 0;
    const meshes = character.meshes.map((mesh) => {
      if (!mesh.influences) return mesh;
      const limited = limitInfluences(mesh.influences, limit, dust);
      if (limited.changed === 0) return mesh;
      changed += limited.changed;
      return { ...mesh, influences: limited.influences };
    });
    if (changed === 0)
      throw new NothingToDo(
        `No vertex holds more than ${limit} bones and every sum is one; there is nothing to change.`,
      );
    return { ...character, meshes };
  },
});
