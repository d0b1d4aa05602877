import { ArrowLeftRight } from 'lucide-react';
import type { ToolDefinition } from '../../parts/room';
import type { Stage } from '../../stage/stage';
import type { PointerAt, Tool } from '../../stage/tools/tool';
import type { Figure, FigureBone } from '../../worker/figure';
import { namedOn, pointAtSource, pointAtTarget } from './choice';
import { useCrosswalkSession } from './session';

/** Points at bones of one figure: the second one, on the other figure, makes the pair. */
export function pairTool(
  stage: Stage,
  tell: { take(bone: FigureBone): void; isHeld(bone: FigureBone): boolean },
): Tool {
  let over: FigureBone | null = null;
  const boneAt = ({ x, y }: PointerAt): FigureBone | null => {
    const joint = stage.jointNear(x, y);
    if (joint) return joint;
    const hit = stage.pick(x, y);
    return (hit?.kind === 'bone' && stage.openBones.find((bone) => bone.node === hit.node)) || null;
  };
  return {
    id: 'pair',
    cursor: 'crosshair',
    down: () => false,
    move: (at) => {
      over = boneAt(at);
      stage.draw();
    },
    up: () => {},
    click: (at) => {
      const bone = boneAt(at);
      if (bone) tell.take(bone);
      stage.draw();
    },
    leave: () => {
      over = null;
      stage.draw();
    },
    cancel: () => {
      over = null;
      useCrosswalkSession.setState({ held: null });
    },
    overlay: () => {
      const held = stage.openBones.find((bone) => tell.isHeld(bone));
      return { rings: [held, over].flatMap((bone) => (bone ? [bone.from] : [])) };
    },
  };
}

const heldOn = (side: 'source' | 'target') => {
  const { held, source, skeleton } = useCrosswalkSession.getState();
  if (held?.side !== side) return undefined;
  return (side === 'source' ? source : skeleton)?.bones[held.bone];
};

/** On the figure as it is. */
export const pairDefinition: ToolDefinition = {
  id: 'pair',
  title: 'Pair by pointing at a bone on each figure',
  hint: 'Point at a bone on one figure, then at its counterpart on the other.',
  icon: ArrowLeftRight,
  letter: 'A',
  make: (stage) =>
    pairTool(stage, {
      take: (bone) => pointAtSource(bone.node),
      isHeld: (bone) => heldOn('source')?.node === bone.node,
    }),
};

/** On the figure as it will be. */
export const pairOnTarget =
  (shown: () => Figure | null) =>
  (stage: Stage): Tool =>
    pairTool(stage, {
      take: (bone) => pointAtTarget(namedOn(shown(), bone.node)),
      isHeld: (bone) => heldOn('target')?.name === bone.name,
    });
