/**
 * Bones that carry no weight: ends and controls, by the patterns of a brief over their names. What is called a tip
 * may be the last bone of a finger, which bends: flesh decides, not the word.
 */
import { namePattern } from '../../contracts/pattern';
import { BENDS, closingNodes, fleshBeyond } from '../../anatomy/bone-kinds';
import { wordsOf } from '../../anatomy/reading/tokens';
import type { BriefBase } from '../../contracts/brief';
import { childrenOf } from '../../character/hierarchy';
import type { Character } from '../../character/model';

/** What a brief says of bones that carry nothing. */
export type KindsBrief = BriefBase & {
  readonly endPattern: string | null;
  readonly controlPattern: string | null;
};

export type KindOfBone = 'end' | 'control' | 'plain';

/** Tells of a bone whether it is an end (a tip with no bone and no flesh beyond it), a control, or neither. */
export function kindsOfBones(
  character: Character,
  brief: Pick<KindsBrief, 'endPattern' | 'controlPattern'>,
): (bone: number) => KindOfBone {
  const { nodes } = character;
  const end = matcher(brief.endPattern);
  const control = matcher(brief.controlPattern);
  const children = childrenOf(nodes);
  let beyond: ReadonlyMap<number, number> | null = null;
  const closing = brief.endPattern ? closingNodes(character) : null;
  const isTip = (b: number) =>
    (end(nodes[b].name) || closing?.has(b)) && children[b].every((child) => nodes[child].kind !== 'bone');
  return (bone) => {
    const said = nodes[bone].boneKind;
    if (said) return said === 'end' || said === 'control' ? said : 'plain';
    if (isTip(bone)) {
      beyond ??= fleshBeyond(
        character,
        nodes.flatMap((node, i) => (node.kind === 'bone' && isTip(i) ? [i] : [])),
      );
      return (beyond.get(bone) ?? 0) > BENDS ? 'plain' : 'end';
    }
    return control(nodes[bone].name) ? 'control' : 'plain';
  };
}

/** Whether a name, or its words apart (“LeftToeTip”), matches a pattern; nothing matches none. */
function matcher(pattern: string | null): (name: string) => boolean {
  if (!pattern) return () => false;
  const expression = namePattern(pattern, true);
  return (name) => expression.test(name) || expression.test(wordsOf(name).join('_'));
}
