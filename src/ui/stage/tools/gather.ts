import type { Stage } from '../stage';
import type { Hit, Marks } from '../view';
import { StackedPicks, type StackedPick } from './stack';
import type { PointerAt, Tool } from './tool';

export type GatherOf = 'bones' | 'points' | 'polygons';

interface Told {
  of(): GatherOf;
  /** What is gathered already; kept where Shift is held. */
  before(): Marks;
  /** `taken`: which of the things behind one another a press took. */
  choose(gathered: Marks, taken?: Pick<StackedPick<Hit>, 'nth' | 'of'>): void;
}

const NOTHING: Marks = { vertices: new Map(), polygons: new Map(), bones: new Set() };

/** A box smaller than this is a press, pixels. */
const PRESS = 4;

/**
 * Gathers bones, points or polygons by dragging a box over them; a press takes the one under it, Shift adds.
 * What a seam split is one point.
 */
export function boxTool(stage: Stage, callbacks: Told): Tool {
  let from: PointerAt | null = null;
  let to: PointerAt | null = null;
  const under = elementsUnder(stage);
  return {
    id: 'box',
    cursor: 'crosshair',
    down: (at) => {
      from = at;
      to = at;
      return true;
    },
    move: (at, isHeld) => {
      if (!isHeld) return;
      to = at;
      stage.draw();
    },
    up: (at) => {
      if (!from) return;
      const isPress = Math.hypot(at.x - from.x, at.y - from.y) <= PRESS;
      if (isPress) takeUnder(under, callbacks.of(), at, callbacks);
      else {
        const found = elementsInBox(stage, callbacks.of(), from, at);
        callbacks.choose(at.shift ? joinChosen(callbacks.before(), found) : found);
      }
      from = null;
      to = null;
      stage.draw();
    },
    cancel: () => {
      from = null;
      to = null;
    },
    overlay: () => ({ box: from && to ? [from.x, from.y, to.x, to.y] : null }),
  };
}

/** Takes the single point under the pointer. */
export function pointTool(
  stage: Stage,
  callbacks: Omit<Told, 'of'> & { hover(hit: ReturnType<Stage['pick']>): void },
): Tool {
  let over: readonly number[] | null = null;
  const under = elementsUnder(stage);
  return {
    id: 'point',
    cursor: 'crosshair',
    down: () => false,
    move: ({ x, y }) => {
      const hit = stage.pick(x, y, 'surface');
      over = hit?.point ?? null;
      callbacks.hover(hit);
      stage.draw();
    },
    up: () => {},
    click: (at) => takeUnder(under, 'points', at, callbacks),
    leave: () => {
      over = null;
      callbacks.hover(null);
      stage.draw();
    },
    cancel: () => callbacks.hover(null),
    overlay: () => ({ ring: over }),
  };
}

/** The elements of a kind under a press, one behind the other. */
type ElementsUnder = (of: GatherOf, at: PointerAt) => (StackedPick<Hit> & { readonly marks: Marks }) | null;

function elementsUnder(stage: Stage): ElementsUnder {
  const bones = new StackedPicks<Hit>(({ node }) => String(node));
  const points = new StackedPicks<Hit>(({ node, vertex }) => `${node} ${pointNumber(stage, node, vertex)}`);
  const polygons = new StackedPicks<Hit>(({ node, polygon }) => `${node} ${polygon}`);
  const stacks = { bones, points, polygons };
  return (of, at) => {
    const hits = stage.pickAll(at.x, at.y, of === 'bones' ? 'all' : 'surface');
    const wanted = hits.filter(({ kind }) => (kind === 'bone') === (of === 'bones'));
    const taken = stacks[of].take(at, wanted);
    return taken && { ...taken, marks: marksOf(stage, of, taken.hit) };
  };
}

function marksOf(stage: Stage, of: GatherOf, { node, vertex, polygon }: Hit): Marks {
  if (of === 'bones') return { ...NOTHING, bones: new Set([node]) };
  if (of === 'polygons') return { ...NOTHING, polygons: new Map([[node, Uint32Array.of(polygon)]]) };
  return pointOf(stage, node, vertex);
}

function takeUnder(
  under: ElementsUnder,
  of: GatherOf,
  at: PointerAt,
  callbacks: Pick<Told, 'before' | 'choose'>,
): void {
  const taken = under(of, at);
  const found = taken?.marks ?? NOTHING;
  callbacks.choose(at.shift ? joinChosen(callbacks.before(), found) : found, taken ?? undefined);
}

const pointsOfNode = (stage: Stage, node: number): Uint32Array | undefined =>
  stage.openMeshes.find((mesh) => mesh.figure.node === node)?.figure.pointOfVertex;

const pointNumber = (stage: Stage, node: number, vertex: number): number =>
  pointsOfNode(stage, node)?.[vertex] ?? -1;

/** A point with all the vertices that a seam split it into. */
function pointOf(stage: Stage, node: number, vertex: number): Marks {
  const pointOfVertex = pointsOfNode(stage, node);
  if (!pointOfVertex) return NOTHING;
  const same: number[] = [];
  pointOfVertex.forEach((point, index) => {
    if (point === pointOfVertex[vertex]) same.push(index);
  });
  return { ...NOTHING, vertices: new Map([[node, Uint32Array.from(same)]]) };
}

function elementsInBox(stage: Stage, of: GatherOf, a: PointerAt, b: PointerAt): Marks {
  const inside = (x: number, y: number, z: number) => {
    const [px, py] = stage.rig.project(x, y, z);
    return (
      px >= Math.min(a.x, b.x) &&
      px <= Math.max(a.x, b.x) &&
      py >= Math.min(a.y, b.y) &&
      py <= Math.max(a.y, b.y)
    );
  };
  if (of === 'bones') {
    const bones = stage.openBones.filter((bone) => inside(bone.from[0], bone.from[1], bone.from[2]));
    return { ...NOTHING, bones: new Set(bones.map((bone) => bone.node)) };
  }
  const found = new Map<number, Uint32Array>();
  for (const mesh of stage.openMeshes) {
    const ids: number[] = [];
    const gather = (id: number, x: number, y: number, z: number) => {
      if (inside(x, y, z)) ids.push(id);
    };
    if (of === 'points') mesh.eachVertex(gather);
    else mesh.eachPolygon(gather);
    if (ids.length > 0) found.set(mesh.figure.node, Uint32Array.from(ids));
  }
  return of === 'points' ? { ...NOTHING, vertices: found } : { ...NOTHING, polygons: found };
}

function joinChosen(a: Marks, b: Marks): Marks {
  const both = (x: Marks['vertices'], y: Marks['vertices']) => {
    const out = new Map(x);
    for (const [node, ids] of y) out.set(node, Uint32Array.from(new Set([...(out.get(node) ?? []), ...ids])));
    return out;
  };
  return {
    vertices: both(a.vertices, b.vertices),
    polygons: both(a.polygons, b.polygons),
    bones: new Set([...a.bones, ...b.bones]),
  };
}
