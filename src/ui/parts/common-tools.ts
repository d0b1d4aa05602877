import { BoxSelect, Crosshair, Hand, RotateCw, Ruler } from 'lucide-react';
import { lengthText } from '@/core/contracts/units';
import { distance } from '@/core/geometry/matrix';
import { boxTool, pointTool } from '../stage/tools/gather';
import { measureTool } from '../stage/tools/measure';
import { turnTool } from '../stage/tools/turn';
import { chooseBone, choosePicked } from '../state/choose';
import { hover } from '../state/pointer';
import type { Picked } from '../state/selection';
import { desk, setDesk } from '../state/store';
import { takeMeasurePoint, useMeasuring } from '../state/measuring';
import { gatherSettings, useBox } from './box-settings';
import { BoxPanel, PointPanel } from './gather-panel';
import { PosePanel } from './pose-panel';
import { makePoseTool } from './pose-tool';
import type { ToolDefinition } from './room';

const showHover = (hit: typeof hover.value) => hover.set(hit);

/** Says that more lies behind what a press took. */
function tellStacked({ nth, of }: { readonly nth: number; readonly of: number }): void {
  setDesk({ stacked: of > 1 ? { nth, of } : null });
}

function takePicked(picked: Picked, taken?: { readonly nth: number; readonly of: number }): void {
  choosePicked(picked);
  tellStacked(taken ?? { nth: 1, of: 1 });
}

/** The tools that every room has. */
export const COMMON_TOOLS: readonly ToolDefinition[] = [
  {
    id: 'turn',
    title: 'Turn the figure, choose a bone',
    hint: 'Drag to turn, press a twig to choose its bone; press again for the one behind it.',
    icon: Hand,
    letter: 'G',
    make: (stage) =>
      turnTool(stage, {
        hover: showHover,
        choose: (taken) => {
          chooseBone(taken.hit.node);
          tellStacked(taken);
        },
      }),
  },
  {
    id: 'box',
    title: 'Choose by box or brush',
    hint: 'Drag a box or a brush over what you want; Shift adds to it.',
    icon: BoxSelect,
    letter: 'S',
    make: (stage) =>
      boxTool(stage, {
        of: () => useBox.getState().of,
        settings: gatherSettings,
        before: () => desk().picked,
        choose: takePicked,
      }),
    Panel: BoxPanel,
    isPanelWide: true,
  },
  {
    id: 'point',
    title: 'Pick a single point',
    hint: 'Press a point to read all that it carries; Shift adds one.',
    icon: Crosshair,
    letter: 'E',
    make: (stage) => pointTool(stage, { before: () => desk().picked, choose: takePicked, hover: showHover }),
    Panel: PointPanel,
  },
  {
    id: 'turn-bone',
    title: 'Pose: turn a bone',
    hint: 'Drag a bone round its joint; the figure stays as it stands in every room.',
    icon: RotateCw,
    letter: ',',
    make: makePoseTool,
    Panel: PosePanel,
  },
  {
    id: 'measure',
    title: 'Measure between two points',
    hint: 'Points and joints catch the pointer on the stage. Escape puts it down.',
    icon: Ruler,
    letter: 'M',
    make: (stage) =>
      measureTool(stage, {
        from: () => useMeasuring.getState().from,
        take: (at) => void takeMeasurePoint(at),
        text: (a, b) => lengthText(distance(a, b), desk().brief.unit),
      }),
  },
];
