import { object } from 'yup';
import { withOtherSide } from '../../../anatomy/side-in-name';
import { skeletonOf } from '../../../anatomy/skeleton';
import { exchangedSides } from '../../../anatomy/twins';
import { refsTo } from '../../../contracts/params';
import { RemedyError } from '../../../contracts/remedy';
import { defineRenaming } from '../renaming';

/** Calls what is called left right, and the other way round. */
export const swapSides = defineRenaming({
  id: 'swap-sides',
  title: 'Exchange left and right in names',
  does: 'What is called left is called right, and the other way round; the bones stay where they are, vertex groups, clips and sets follow.',
  params: object({ bones: refsTo('bone', 'Bones') }),
  newNames(character, bones) {
    const skeleton = skeletonOf(character);
    const chosen = new Set(bones);
    const indices = skeleton.bones.flatMap(({ node }, i) => (chosen.has(node) ? [i] : []));
    // In any language, where both of a pair are meant.
    const pairs = exchangedSides(skeleton, indices);
    const names = new Map<number, string>();
    for (const bone of bones) {
      const { name } = character.nodes[bone];
      const to = withOtherSide(name) ?? (Object.hasOwn(pairs, name) ? pairs[name] : null);
      if (to !== null) names.set(bone, to);
    }
    if (names.size === 0)
      throw new RemedyError(
        'None of these names says a side that is known; choose bones of a side, or rename them from a table.',
      );
    return names;
  },
});
