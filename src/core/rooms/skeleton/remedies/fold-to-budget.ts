import { number, object } from 'yup';
import { skeletonOf } from '../../../anatomy/skeleton';
import { twinsOf } from '../../../anatomy/twins';
import type { Character } from '../../../character/model';
import { refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy } from '../../../contracts/remedy';
import { smallLengthText } from '../../../contracts/units';
import { type FoldCost, cheapestFolds } from '../../../motion/bone-costs';
import { FoldError, withBonesFolded } from '../../../motion/fold';
import { foldingPromises } from '../folding';

/** Bones are listed up to so many. */
const LISTED = 60;

interface BudgetParams {
  readonly most: number;
  readonly stay: readonly number[];
}

const largestSkin = ({ skins }: Character) => Math.max(0, ...skins.map(({ joints }) => joints.length));

/** Folds the bones that motion misses least, until no skin lists more than the machine takes. */
export const foldToBudget = defineRemedy({
  id: 'fold-to-budget',
  room: 'skeleton',
  title: 'Fold down to the bone budget',
  does: 'Bones go, one after the other, until no skin lists more than so many: always the one whose weight on the bone above moves the body least in trial poses and in the clips. What hangs on them moves as it did; bones that hold something stay.',
  params: object({
    most: number().integer().min(1).required().meta({ quantity: 'count', label: 'Bones of a skin, at most' }),
    stay: refsTo('bone', 'Bones that stay').default([]),
  }),
  rows(character, params, { unit }) {
    const folds = planOf(character, params);
    const last = folds.at(-1);
    return [
      { label: 'Bones of the largest skin', value: largestSkin(character), unit: 'bones' },
      ...(last
        ? [
            { label: 'Body off, root mean square', value: smallLengthText(last.rms, unit), unit: '' },
            { label: 'Body off, at most', value: smallLengthText(last.max, unit), unit: '' },
          ]
        : []),
      ...folds.slice(-LISTED).map(({ bone, heir, rms }) => ({
        label: `${character.nodes[bone].name} into ${character.nodes[heir].name}, off by then`,
        value: smallLengthText(rms, unit),
        unit: '',
      })),
    ];
  },
  promises: (character, params) =>
    foldingPromises(
      character,
      planOf(character, params).map(({ bone }) => bone),
    ),
  apply(character, params) {
    if (largestSkin(character) <= params.most)
      throw new NothingToDo('No skin lists more bones than that; there is nothing to fold.');
    const folds = planOf(character, params);
    const last = largestSkin(character) - folds.length;
    if (folds.length === 0)
      throw new RemedyError(
        'None of its bones can be folded: those that are left hold something, are to stay, or have no bone of the skin above them.',
      );
    if (last > params.most && character.skins.length === 1)
      throw new RemedyError(
        `Only ${folds.length} bones can go, and the skin would still list ${last}; let more of them go, or allow more.`,
      );
    try {
      return withBonesFolded(character, new Set(folds.map(({ bone }) => bone))).character;
    } catch (error) {
      if (error instanceof FoldError) throw new RemedyError(error.message);
      throw error;
    }
  },
});

const plans = new WeakMap<Character, Map<string, readonly FoldCost[]>>();

/** The bones that go, by what is asked; asked several times over one preview, worked out once. */
function planOf(character: Character, { most, stay }: BudgetParams): readonly FoldCost[] {
  if (largestSkin(character) <= most) return [];
  const key = JSON.stringify([most, stay]);
  const known = plans.get(character) ?? new Map<string, readonly FoldCost[]>();
  plans.set(character, known);
  let plan = known.get(key);
  if (!plan) {
    const skeleton = skeletonOf(character);
    const twins = new Map(
      [...twinsOf(skeleton)].flatMap((twin, i) =>
        twin < 0 ? [] : [[skeleton.bones[i].node, skeleton.bones[twin].node] as const],
      ),
    );
    known.set(key, (plan = cheapestFolds(character, { keeps: new Set(stay), twins, most })));
  }
  return plan;
}
