/** Which bones carry no weight: ends and controls by what is read of them, and those that a brief leaves out. */
import { boneKindsOf } from '../../anatomy/bone-kinds';
import type { Character } from '../../character/model';
import type { BriefBase } from '../../contracts/brief';
import { namePattern } from '../../contracts/pattern';
import type { WeightCarriers } from '../../contracts/settings';

/** A brief that says which bones may carry weight. */
export type CarriersBrief = BriefBase & { readonly carriers: WeightCarriers };

/** Why a bone must carry no weight; null for one that may. */
export type Unweighted = 'end' | 'control' | 'left out' | null;

/** Tells of a bone whether it must carry no weight, and why. What a person said of a bone comes before its name. */
export function unweightedBones(
  character: Character,
  { carriers }: { readonly carriers: WeightCarriers },
): (bone: number) => Unweighted {
  const kinds = boneKindsOf(character);
  const only = patternOf(carriers.only);
  const never = patternOf(carriers.never);
  const set = setNamed(character, carriers.set);
  return (bone) => {
    const reading = kinds.get(bone);
    const { name } = character.nodes[bone];
    if (reading?.kind === 'end' && carriers.ends === 'none') return 'end';
    if (reading?.kind === 'control' && carriers.controls === 'none') return 'control';
    if (reading?.isByHand && (reading.kind === 'deforming' || reading.kind === 'cloth')) return null;
    const isLeftOut = never?.test(name) || (only && !only.test(name)) || (set && !set.has(bone));
    return isLeftOut ? 'left out' : null;
  };
}

/** The bones of the set that a brief names; null where it names none, or none of that name is there. */
export function setNamed({ sets }: Character, name: string | null): ReadonlySet<number> | null {
  const set = name === null ? undefined : sets.find((set) => set.name === name);
  return set ? new Set(set.bones) : null;
}

const patternOf = (pattern: string | null) => (pattern ? namePattern(pattern, true) : null);
