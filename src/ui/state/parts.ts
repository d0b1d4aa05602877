/** What of the parts is hidden, and the choice made more or less of. */
import { type ChoiceStep, CHOICE_STEPS } from '@/core/rooms/surface/choosing';
import { changeLook, choosePicked } from './choose';
import { LatestRequest } from './latest-request';
import { desk, setDesk } from './store';
import { deskWorker } from './worker';

/** A part as it is chosen, hidden and shown: its polygons. */
export interface PartPolygons {
  readonly node: number;
  readonly polygons: Uint32Array;
}

const hiding = new LatestRequest();

/** Whether a part is hidden: its first polygon tells. */
export const isPartHidden = (
  hidden: ReadonlyMap<number, Uint32Array>,
  { node, polygons }: PartPolygons,
): boolean => hidden.get(node)?.includes(polygons[0]) ?? false;

/** Hides parts on the stage, or shows them again. */
export async function hideParts(parts: readonly PartPolygons[], isHidden: boolean): Promise<void> {
  const hidden = new Map([...desk().hiddenPolygons].map(([node, ids]) => [node, new Set(ids)]));
  for (const { node, polygons } of parts) {
    const own = hidden.get(node) ?? new Set<number>();
    for (const polygon of polygons) {
      if (isHidden) own.add(polygon);
      else own.delete(polygon);
    }
    hidden.set(node, own);
  }
  const written = new Map(
    [...hidden].filter(([, ids]) => ids.size > 0).map(([node, ids]) => [node, Uint32Array.from(ids)]),
  );
  const isCurrent = hiding.begin();
  const { revision } = desk();
  const partsLeft = await deskWorker().keepWithout(written);
  if (isCurrent() && desk().revision === revision) changeLook({ hiddenPolygons: written, partsLeft });
}

/** Shows all parts again. */
export const showAllParts = (): void => {
  hiding.drop();
  changeLook({ hiddenPolygons: new Map(), partsLeft: new Map() });
};

/** Chooses the polygons of parts. */
export function chooseParts(parts: readonly PartPolygons[]): void {
  const polygons = new Map<number, Uint32Array>();
  for (const { node, polygons: own } of parts)
    polygons.set(node, Uint32Array.from([...(polygons.get(node) ?? []), ...own]));
  choosePicked({ vertices: new Map(), polygons, bones: new Set() });
}

const stepping = new LatestRequest();

/** Makes more of what is chosen, less of it, or what goes with it; says why where that is not to be had. */
export async function stepChoice(step: ChoiceStep): Promise<void> {
  const { picked, revision } = desk();
  const list = (ids: ReadonlyMap<number, Uint32Array>) =>
    [...ids].map(([node, some]) => ({ node, ids: some }));
  const isCurrent = stepping.begin();
  const made = await deskWorker().choiceStep(
    { vertices: list(picked.vertices), polygons: list(picked.polygons) },
    step,
  );
  if (!isCurrent() || desk().revision !== revision || desk().picked !== picked) return;
  if (typeof made === 'string') setDesk({ error: `${CHOICE_STEPS[step].title}: ${made}` });
  else {
    const byNode = (held: typeof made.vertices) => new Map(held.map(({ node, ids }) => [node, ids]));
    choosePicked({ vertices: byNode(made.vertices), polygons: byNode(made.polygons), bones: new Set() });
  }
}

/** Shows how far every point is from its mirror image, or the surface again. */
export const showSides = (isShown: boolean): Promise<void> =>
  showPicture(isShown, 'from its mirror image', () => deskWorker().sidesPicture(desk().brief));

/** Shows how far it is from every loop across a joint’s limb to the next, or the surface again. */
export const showLoopWays = (isShown: boolean): Promise<void> =>
  showPicture(isShown, 'to the next loop', () => deskWorker().loopsPicture());

async function showPicture(
  isShown: boolean,
  title: string,
  ask: () => Promise<{ readonly values: Map<number, Float32Array>; readonly most: number }>,
): Promise<void> {
  if (!isShown) {
    changeLook({ heat: null });
    return;
  }
  const { revision } = desk();
  const { values, most } = await ask();
  if (desk().revision === revision) changeLook({ heat: { title, values, most } });
}
