/** Strokes of a brush: begun, fed with every sample of the pointer in order, ended; one after the other, none left out. */
import type { WeightBrush } from '@/core/rooms/weights/painting';
import { messageOf } from '../kit/api';
import { beginGesture, settle } from './draft';
import { touching } from './pointer';
import { trialOf } from './pose';
import { AT_REST } from './posed';
import { desk, setDesk } from './store';
import { inLine } from './stroke-line';
import { deskWorker } from './worker';

interface Stroke {
  readonly onPlace: (place: readonly number[] | null) => void;
  /** Samples that were not handed over yet, in their order. */
  samples: number[];
  canPaint: boolean;
  /** It was said that the brush reaches through. */
  hasSaid: boolean;
}

let stroke: Stroke | null = null;

/** Begins a stroke on the mesh of a node. `onPlace`: told where its samples met the surface. */
export function beginStroke(node: number, brush: WeightBrush, onPlace: Stroke['onPlace']): void {
  const begun: Stroke = { onPlace, samples: [], canPaint: false, hasSaid: false };
  stroke = begun;
  const gesture = beginGesture();
  inLine(async () => {
    const { figure, pose, brief, wide } = desk();
    if (!figure) return;
    try {
      const trial = trialOf(wide ? AT_REST : pose);
      begun.canPaint = await deskWorker().strokeBegin(node, trial, brush, gesture, brief);
      if (!begun.canPaint) setDesk({ error: whyNot(node, brush.bone) });
    } catch (error) {
      setDesk({ error: messageOf(error) });
    }
  });
}

function whyNot(node: number, bone: number): string {
  if (desk().heldBones.has(bone)) return 'The bone is held; let it change on the page Who pulls first.';
  const nameOf = (index: number) => desk().character?.nodes[index]?.name ?? '';
  return `“${nameOf(node)}” is not bound to “${nameOf(bone)}”, so that bone cannot be brushed on it.`;
}

const REACHED_BEHIND =
  'The brush reaches through to what faces away. Choose “what is seen” or “along the surface” to keep it on this side.';

/** A stroke without a pointer: one dab with all of the brush's strength on vertices of a mesh. */
export function dabOn(node: number, brush: WeightBrush, vertices: Uint32Array): void {
  beginStroke(node, brush, () => undefined);
  const dabbed = stroke;
  inLine(async () => {
    const { figure } = desk();
    if (!dabbed?.canPaint || !figure) return;
    const { touched } = await deskWorker().dabOn(vertices);
    if (desk().figure !== figure) return;
    if (touched) touching.set({ figure, touched: [touched] });
    else setDesk({ said: 'The chosen points have what the brush would give them already.' });
  });
  endStroke();
}

/** Appends a sample to the stroke: a ray, world space, and the pressure. */
export function strokeTo(sample: readonly number[]): void {
  const fed = stroke;
  if (!fed) return;
  const isFirst = fed.samples.length === 0;
  fed.samples.push(...sample);
  // Those that come while others are at work go along with the next.
  if (isFirst) inLine(() => handOver(fed));
}

async function handOver(fed: Stroke): Promise<void> {
  const { figure } = desk();
  const samples = Float32Array.from(fed.samples);
  fed.samples = [];
  if (!fed.canPaint || !figure) return;
  const { touched, place, isBehind } = await deskWorker().strokeOn(samples);
  if (desk().figure !== figure) return;
  if (isBehind && !fed.hasSaid) {
    fed.hasSaid = true;
    setDesk({ said: REACHED_BEHIND });
  }
  if (touched) touching.set({ figure, touched: [touched] });
  fed.onPlace(place);
}

/** Ends the stroke, behind all that was appended; it is one change of the draft. */
export function endStroke(): void {
  const ended = stroke;
  stroke = null;
  inLine(async () => {
    if (ended?.canPaint) await settle(() => deskWorker().strokeEnd());
  });
}
