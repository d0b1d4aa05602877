import { type Command, READING, print, printJson, readOptionsOf } from '../command';
import { UsageError } from '../errors';
import { readFile } from '../files';
import { type TreeBone, treeBonesOf } from '../../core/rooms/skeleton/tree/bones';

const SIDES = { 1: 'left', [-1]: 'right', 0: 'middle' } as const;

/** Prints the bones of a file as a tree, or tells of each what it is and carries. */
export const treeCommand: Command = {
  name: 'tree',
  takes: 'FILE',
  options: { json: {}, ...READING },
  run(given, files) {
    if (files.length !== 1) throw new UsageError('Name one file whose bones are to be told.');
    const [file] = files;
    const bones = treeBonesOf(readFile(file, readOptionsOf(given)));
    if (bones.length === 0) throw new UsageError(`“${file}” holds no bones.`);
    const byNode = new Map(bones.map((bone) => [bone.node, bone]));
    if (given.json) printJson({ file, bones: bones.map((bone) => rowOf(bone, byNode)) });
    else printTree(bones);
    return 0;
  },
};

function rowOf(bone: TreeBone, byNode: ReadonlyMap<number, TreeBone>) {
  return {
    name: bone.name,
    parent: byNode.get(bone.parent)?.name ?? null,
    side: bone.isSideNamed ? SIDES[bone.side] : null,
    twin: byNode.get(bone.twin)?.name ?? null,
    kind: bone.kind,
    why: bone.why,
    weight: bone.weight,
  };
}

function printTree(bones: readonly TreeBone[]): void {
  const children = new Map<number, TreeBone[]>();
  for (const bone of bones) {
    const list = children.get(bone.parent);
    if (list) list.push(bone);
    else children.set(bone.parent, [bone]);
  }
  // A stack of its own: a chain may be as deep as a file has bones.
  const stack = (children.get(-1) ?? [])
    .map((bone) => ({ bone, lead: '', joint: '', below: '' }))
    .toReversed();
  for (let row = stack.pop(); row; row = stack.pop()) {
    const { bone, lead, joint, below } = row;
    const side = bone.side === 0 || !bone.isSideNamed ? '' : `, ${SIDES[bone.side]}`;
    const weight = bone.weight > 0 ? `weight ${Math.round(bone.weight)}` : 'no weight';
    print(`${lead}${joint}${bone.name}  (${bone.kind}${side}, ${weight})`);
    const list = children.get(bone.node) ?? [];
    for (const [k, child] of list.toReversed().entries())
      stack.push({
        bone: child,
        lead: lead + below,
        joint: k === 0 ? '└ ' : '├ ',
        below: k === 0 ? '  ' : '│ ',
      });
  }
}
