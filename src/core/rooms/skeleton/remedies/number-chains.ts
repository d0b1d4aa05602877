import { number, object } from 'yup';
import { sideEnd } from '../../../anatomy/side-in-name';
import { parentBone, topDown } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { refsTo } from '../../../contracts/params';
import { defineRenaming } from '../renaming';

/** Numbers the bones of chains from the body out, each by the name of its first bone. */
export const numberChains = defineRenaming({
  id: 'number-chains',
  title: 'Number along the chain',
  does: 'Each chain is called after its first bone and numbered outwards from it; vertex groups, clips and sets follow.',
  params: object({
    bones: refsTo('bone', 'Bones').required(),
    first: number().integer().min(0).default(1).meta({ label: 'Begin with', quantity: 'count' }),
    digits: number().integer().min(1).default(1).meta({ label: 'Digits at least', quantity: 'count' }),
  }),
  newNames(character, bones, { first, digits }) {
    const chosen = new Set(bones);
    const names = new Map<number, string>();
    const placeOf = new Map<number, { readonly head: number; readonly at: number }>();
    for (const bone of topDown(character.nodes)) {
      if (!chosen.has(bone)) continue;
      const above = placeOf.get(parentBone(character.nodes, bone));
      const place = above ? { head: above.head, at: above.at + 1 } : { head: bone, at: 0 };
      placeOf.set(bone, place);
      const { before, after, width } = aroundNumber(character, place.head);
      names.set(bone, before + String(first + place.at).padStart(Math.max(digits, width), '0') + after);
    }
    return names;
  },
});

/** What stands before and after the number in the names of a chain, and its digits: where its first bone has one, else before the side. */
function aroundNumber(character: Character, head: number): { before: string; after: string; width: number } {
  const { name } = character.nodes[head];
  const number = /^(.*?)(\d+)(\D*)$/.exec(name);
  if (number) return { before: number[1], after: number[3], width: number[2].length };
  const end = sideEnd(name);
  const stem = name.slice(0, name.length - end.length);
  const sign = /[_.\-: ]/.exec(name)?.[0] ?? '';
  return { before: stem + sign, after: end, width: 1 };
}
