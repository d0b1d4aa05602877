import { characterHeight } from '@/core/character/measure';
import type { WeightBrush } from '@/core/rooms/weights/painting';
import type { Stage } from '../../stage/stage';
import { brushTool } from '../../stage/tools/brush';
import type { Tool } from '../../stage/tools/tool';
import { lookAtWeights } from '../../state/choose';
import { beginStroke, dabOn, endStroke, strokeTo } from '../../state/stroke';
import { hover } from '../../state/pointer';
import { desk, setDesk } from '../../state/store';
import { useBrush } from './brush-settings';

/** The page that holds the brush's settings and tells who pulls what is chosen. */
export const PULLS_PAGE = 'pulls';

/** The radius of the brush on the figure that lies on the desk, metres. */
export function brushRadius(size = useBrush.getState().size): number {
  const { character } = desk();
  return character ? size * characterHeight(character) : 0;
}

/** The brush as it is set, for the mesh of a node; null where no bone is chosen. */
function brushInHand(node: number): WeightBrush | null {
  const { bone, brief, heldBones, picked } = desk();
  if (bone < 0) return null;
  const { size, ...settings } = useBrush.getState();
  const isKept = picked.vertices.size > 0;
  return {
    ...settings,
    bone,
    radius: brushRadius(size),
    limit: brief.limits.influences,
    locked: [...heldBones],
    // A choice on another mesh keeps the brush off this one.
    kept: isKept ? (picked.vertices.get(node) ?? new Uint32Array(0)) : null,
  };
}

const sayNoBone = () =>
  setDesk({
    error: 'No bone is chosen whose weight could be brushed: press a twig, or choose one by “/”.',
  });

/** One dab of the brush on all chosen points: what a pointer does by going over them. */
export function dabOnChosen(): void {
  for (const [node, vertices] of desk().picked.vertices) {
    const brush = brushInHand(node);
    if (!brush) {
      sayNoBone();
      return;
    }
    dabOn(node, brush, vertices);
  }
}

/** Paints the weight of the chosen bone, in whatever pose the figure stands. */
export function makeBrushTool(stage: Stage): Tool {
  lookAtWeights();
  // Its settings stand there, beside the stage and not over it.
  setDesk({ page: PULLS_PAGE });
  return brushTool(stage, {
    radius: brushRadius,
    hover: (hit) => hover.set(hit),
    begin: (node, onPlace) => {
      const brush = brushInHand(node);
      if (!brush) {
        sayNoBone();
        return false;
      }
      beginStroke(node, brush, onPlace);
      return true;
    },
    stroke: strokeTo,
    end: endStroke,
  });
}
