import type { Stage } from '../stage';
import type { Hit } from '../view';
import { StackedPicks, type StackedPick } from './stack';
import type { Tool } from './tool';

/** The open hand: it turns the figure, reads what is under it, and chooses a bone by its twig; again, the one behind it. */
export function turnTool(
  stage: Stage,
  tell: { hover(hit: Hit | null): void; choose(taken: StackedPick<Hit>): void },
): Tool {
  const stacked = new StackedPicks<Hit>(({ node }) => String(node));
  return {
    id: 'turn',
    cursor: '',
    down: () => false,
    move: ({ x, y }) => tell.hover(stage.pick(x, y)),
    up: () => {},
    click: (at) => {
      const bones = stage.pickAll(at.x, at.y).filter((hit) => hit.kind === 'bone');
      const taken = stacked.take(at, bones);
      if (taken) tell.choose(taken);
    },
    leave: () => tell.hover(null),
    cancel: () => tell.hover(null),
  };
}
