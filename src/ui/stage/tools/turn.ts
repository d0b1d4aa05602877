import type { Stage } from '../stage';
import type { Hit } from '../view';
import type { Tool } from './tool';

/** The open hand: it turns the figure, reads what is under it, and chooses a bone by its twig. */
export function turnTool(
  stage: Stage,
  tell: { hover(hit: Hit | null): void; choose(node: number): void },
): Tool {
  return {
    id: 'turn',
    cursor: '',
    down: () => false,
    move: ({ x, y }) => tell.hover(stage.pick(x, y)),
    up: () => {},
    click: ({ x, y }) => {
      const hit = stage.pick(x, y);
      if (hit?.kind === 'bone') tell.choose(hit.node);
    },
    leave: () => tell.hover(null),
    cancel: () => tell.hover(null),
  };
}
