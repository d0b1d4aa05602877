/** Bones that carry no weight, by the patterns of a brief over their names. */
import type { BriefBase } from '../../contracts/brief';
import type { Character } from '../../character/model';
import { childrenOf } from '../../character/hierarchy';

/** What a brief says of bones that carry nothing. */
export type KindsBrief = BriefBase & {
  readonly endPattern: string | null;
  readonly controlPattern: string | null;
};

export type KindOfBone = 'end' | 'control' | 'plain';

/** Tells of a bone whether it is an end (a tip with no bone beyond it), a control, or neither. */
export function kindsOfBones({ nodes }: Character, brief: Pick<KindsBrief, 'endPattern' | 'controlPattern'>) {
  const end = brief.endPattern ? new RegExp(brief.endPattern, 'i') : null;
  const control = brief.controlPattern ? new RegExp(brief.controlPattern, 'i') : null;
  const children = childrenOf(nodes);
  return (bone: number): KindOfBone => {
    const { name } = nodes[bone];
    if (end?.test(name) && children[bone].every((c) => nodes[c].kind !== 'bone')) return 'end';
    return control?.test(name) ? 'control' : 'plain';
  };
}
