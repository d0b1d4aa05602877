import { characterHeight } from '@/core/character/measure';
import type { WeightBrush } from '@/core/rooms/weights/painting';
import type { Stage } from '../../stage/stage';
import { brushTool } from '../../stage/tools/brush';
import type { Tool } from '../../stage/tools/tool';
import { lookAtWeights } from '../../state/choose';
import { beginStroke, endStroke, strokeTo } from '../../state/stroke';
import { hover } from '../../state/pointer';
import { desk, setDesk } from '../../state/store';
import { useBrush } from './brush-settings';

/** The radius of the brush on the figure that lies on the desk, metres. */
export function brushRadius(size = useBrush.getState().size): number {
  const { character } = desk();
  return character ? size * characterHeight(character) : 0;
}

function brushInHand(): WeightBrush | null {
  const { bone, brief } = desk();
  if (bone < 0) return null;
  const { strength, target, hardness } = useBrush.getState();
  return { bone, radius: brushRadius(), strength, target, hardness, limit: brief.limits.influences };
}

/** Paints the weight of the chosen bone, in whatever pose the figure stands. */
export function makeBrushTool(stage: Stage): Tool {
  lookAtWeights();
  return brushTool(stage, {
    radius: brushRadius,
    hover: (hit) => hover.set(hit),
    begin: (node, onPlace) => {
      const brush = brushInHand();
      if (!brush) {
        setDesk({
          error: 'No bone is chosen whose weight could be brushed: press a twig, or choose one by “/”.',
        });
        return false;
      }
      beginStroke(node, brush, onPlace);
      return true;
    },
    stroke: strokeTo,
    end: endStroke,
  });
}
