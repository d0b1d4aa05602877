import { restLocals } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { ownPosedWorld, turnedFurther } from '@/core/motion/hand-pose';
import { clipLocals } from '@/core/motion/pose';
import type { Stage } from '../stage/stage';
import type { Tool } from '../stage/tools/tool';
import { turnBoneTool } from '../stage/tools/turn-bone';
import { chooseBone } from '../state/choose';
import { beginPose, turnTo } from '../state/pose';
import type { StandingPose } from '../state/posed';
import { hover } from '../state/pointer';
import { desk } from '../state/store';

/** How the figure stood when the drag began, and what its turns came on; 16 numbers per node. */
let before: { readonly world: Float64Array; readonly locals: Float64Array } | null = null;

function standsNow(character: Character, { turns, moment }: StandingPose): typeof before {
  const clip = moment && character.clips[moment.clip];
  const locals = clip ? clipLocals(character, clip, moment.time) : restLocals(character.nodes);
  const own = new Map([...turns].map(([node, { turn }]) => [node, turn]));
  return { world: ownPosedWorld(character, own, locals), locals };
}

/** Poses the figure by dragging its bones, in whatever room. */
export const makePoseTool = (stage: Stage): Tool =>
  turnBoneTool(stage, {
    hover: (hit) => hover.set(hit),
    choose: (node) => {
      if (desk().bone !== node) chooseBone(node);
    },
    begin: () => {
      const { character, pose } = desk();
      beginPose();
      before = character && standsNow(character, pose);
    },
    turn: (node, axis, radians) => {
      const { character } = desk();
      if (character && before) turnTo(node, turnedFurther(character, before, node, axis, radians));
    },
  });
