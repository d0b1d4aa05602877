import type { Stage } from '../stage';
import type { Hit, Marks } from '../view';
import { elementsNear, nearestEdge, onlySeen, seamTwins } from './elements-near';
import { StackedPicks, type StackedPick } from './stack';
import type { PointerAt, Tool } from './tool';

export type GatherOf = 'bones' | 'points' | 'edges' | 'polygons';

interface Told {
  of(): GatherOf;
  /** What is gathered already; kept where Shift is held. */
  before(): Marks;
  /** `taken`: which of the things behind one another a press took. */
  choose(gathered: Marks, taken?: Pick<StackedPick<Hit>, 'nth' | 'of'>): void;
}

/** How a gathering tool is set. */
export interface GatherSettings {
  readonly by: 'box' | 'brush';
  /** What lies behind something else is left out. */
  readonly isSeenOnly: boolean;
  /** Of the brush, metres. */
  readonly radius: number;
}

const NOTHING: Marks = { vertices: new Map(), polygons: new Map(), edges: new Map(), bones: new Set() };

/** A box smaller than this is a press, pixels. */
const PRESS = 4;

/**
 * Gathers bones, points, edges or polygons by dragging a box over them, or by a brush; a press takes the one under it, Shift
 * adds. What a seam split is one point. Bones are gathered by a box whatever is set: they lie within.
 */
export function boxTool(stage: Stage, callbacks: Told & { settings(): GatherSettings }): Tool {
  let from: PointerAt | null = null;
  let to: PointerAt | null = null;
  let stroke: Stroke | null = null;
  /** Where the brush would lie. */
  let over: readonly number[] | null = null;
  const under = elementsUnder(stage);
  const isBrush = () => callbacks.settings().by === 'brush' && callbacks.of() !== 'bones';
  const take = async (at: PointerAt, found: Marks) => {
    const { isSeenOnly } = callbacks.settings();
    const before = callbacks.before();
    const kept = isSeenOnly ? await onlySeen(stage, found) : found;
    // Something else was chosen meanwhile.
    if (!kept || callbacks.before() !== before) return;
    callbacks.choose(at.shift ? joinChosen(before, kept) : kept);
  };
  const letGo = () => {
    from = null;
    to = null;
    stroke = null;
    stage.draw();
  };
  return {
    id: 'box',
    cursor: 'crosshair',
    down: (at) => {
      if (isBrush()) {
        stroke = new Stroke(stage, callbacks, at.shift ? callbacks.before() : NOTHING);
        over = stroke.put(at) ?? over;
        stage.draw();
        return true;
      }
      from = at;
      to = at;
      return true;
    },
    samples: (ats) => {
      for (const at of ats) over = stroke?.put(at) ?? over;
    },
    move: (at, isHeld) => {
      if (!isHeld) {
        over = isBrush() ? (stage.pick(at.x, at.y, 'surface')?.place ?? null) : null;
        if (isBrush()) stage.draw();
        return;
      }
      if (from) to = at;
      stage.draw();
    },
    up: (at) => {
      void stroke?.end();
      if (from) {
        const isPress = Math.hypot(at.x - from.x, at.y - from.y) <= PRESS;
        if (isPress) takeUnder(under, callbacks.of(), at, callbacks);
        else void take(at, elementsInBox(stage, callbacks.of(), from, at));
      }
      letGo();
    },
    leave: () => {
      over = null;
      stage.draw();
    },
    cancel: letGo,
    overlay: () => ({
      box: from && to ? [from.x, from.y, to.x, to.y] : null,
      circle: over && isBrush() ? { at: over, radius: callbacks.settings().radius } : null,
    }),
  };
}

/** A brush goes over samples nearer to the one before than this share of its radius without looking. */
const STEP = 0.25;

/** What a brush gathers while it is down. */
class Stroke {
  private last: readonly number[] | null = null;
  private readonly held = new Map<number, Set<number>>();
  private readonly edges = new Map<number, Map<string, readonly [number, number]>>();
  private isWanted = false;

  constructor(
    private readonly stage: Stage,
    private readonly callbacks: Told & { settings(): GatherSettings },
    private readonly before: Marks,
  ) {}

  /** Takes what lies under a place of the canvas; gives where that is on the surface, null beside it. */
  put({ x, y }: PointerAt): readonly number[] | null {
    const { isSeenOnly, radius } = this.callbacks.settings();
    const hits = isSeenOnly ? [this.stage.pick(x, y, 'surface')] : this.stage.pickAll(x, y, 'surface');
    const place = hits[0]?.place ?? null;
    if (!place) return null;
    if (this.last && distanceBetween(this.last, place) < STEP * radius) return place;
    this.last = place;
    const of = this.callbacks.of() as Exclude<GatherOf, 'bones'>;
    const from = isSeenOnly ? this.stage.rayAt(x, y).direction : null;
    for (const hit of hits)
      if (hit?.place)
        elementsNear(this.stage, of, hit.place, radius, from, (...found) => this.keep(...found));
    this.tellSoon();
    return place;
  }

  private keep(node: number, id: number, other?: number): void {
    if (other !== undefined) {
      const own = this.edges.get(node) ?? new Map<string, readonly [number, number]>();
      this.edges.set(node, own);
      own.set(`${Math.min(id, other)} ${Math.max(id, other)}`, [id, other]);
    }
    const own = this.held.get(node) ?? new Set<number>();
    this.held.set(node, own);
    own.add(id);
    if (other !== undefined) own.add(other);
  }

  /** Once a picture, however many samples there are. */
  private tellSoon(): void {
    if (this.isWanted) return;
    this.isWanted = true;
    requestAnimationFrame(() => {
      if (this.isWanted) this.tell();
    });
  }

  private tell(): void {
    this.isWanted = false;
    this.callbacks.choose(joinChosen(this.before, this.found()));
  }

  private found(): Marks {
    const list = new Map([...this.held].map(([node, ids]) => [node, Uint32Array.from(ids)]));
    if (this.callbacks.of() === 'polygons') return { ...NOTHING, polygons: list };
    const edges = [...this.edges].map(
      ([node, own]) => [node, Uint32Array.from([...own.values()].flat())] as const,
    );
    return { ...NOTHING, vertices: seamTwins(this.stage, list), edges: new Map(edges) };
  }

  /** What lies under the surface that was brushed, but faces the same way, goes once the brush is lifted. */
  async end(): Promise<void> {
    if (this.isWanted) this.tell();
    if (!this.callbacks.settings().isSeenOnly || this.held.size === 0) return;
    const told = this.callbacks.before();
    const kept = await onlySeen(this.stage, this.found());
    if (kept && this.callbacks.before() === told) this.callbacks.choose(joinChosen(this.before, kept));
  }
}

const distanceBetween = (one: readonly number[], other: readonly number[]): number =>
  Math.hypot(one[0] - other[0], one[1] - other[1], one[2] - other[2]);

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
  const edges = new StackedPicks<Hit>((hit) => `${hit.node} ${nearestEdge(stage, hit)?.join(' ')}`);
  const stacks = { bones, points, edges, polygons };
  return (of, at) => {
    const hits = stage.pickAll(at.x, at.y, of === 'bones' ? 'all' : 'surface');
    const wanted = hits.filter(({ kind }) => (kind === 'bone') === (of === 'bones'));
    const taken = stacks[of].take(at, wanted);
    return taken && { ...taken, marks: marksOf(stage, of, taken.hit) };
  };
}

function marksOf(stage: Stage, of: GatherOf, hit: Hit): Marks {
  const { node, vertex, polygon } = hit;
  if (of === 'bones') return { ...NOTHING, bones: new Set([node]) };
  if (of === 'polygons') return { ...NOTHING, polygons: new Map([[node, Uint32Array.of(polygon)]]) };
  const edge = of === 'edges' ? nearestEdge(stage, hit) : null;
  if (edge)
    return {
      ...NOTHING,
      vertices: seamTwins(stage, new Map([[node, edge]])),
      edges: new Map([[node, edge]]),
    };
  return { ...NOTHING, vertices: seamTwins(stage, new Map([[node, Uint32Array.of(vertex)]])) };
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

const pointNumber = (stage: Stage, node: number, vertex: number): number =>
  stage.openMeshes.find((mesh) => mesh.figure.node === node)?.figure.pointOfVertex[vertex] ?? -1;

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
  const edges = new Map<number, Uint32Array>();
  for (const mesh of stage.openMeshes) {
    const ids: number[] = [];
    const gather = (id: number, x: number, y: number, z: number) => {
      if (inside(x, y, z)) ids.push(id);
    };
    if (of === 'polygons') mesh.eachPolygon(gather);
    else mesh.eachVertex(gather);
    if (of !== 'edges') {
      if (ids.length > 0) found.set(mesh.figure.node, Uint32Array.from(ids));
      continue;
    }
    const within = mesh.edgesAmong(ids);
    if (within.length === 0) continue;
    edges.set(mesh.figure.node, within);
    found.set(mesh.figure.node, Uint32Array.from(new Set(within)));
  }
  if (of === 'polygons') return { ...NOTHING, polygons: found };
  return { ...NOTHING, vertices: found, edges };
}

function joinChosen(a: Marks, b: Marks): Marks {
  const both = (x: Marks['vertices'] = new Map(), y: Marks['vertices'] = new Map()) => {
    const out = new Map(x);
    for (const [node, ids] of y) out.set(node, union(out.get(node), ids));
    return out;
  };
  return {
    vertices: both(a.vertices, b.vertices),
    polygons: both(a.polygons, b.polygons),
    bones: new Set([...a.bones, ...b.bones]),
    edges: bothEdges(a.edges, b.edges),
  };
}

/** All numbers of two lists, each once. */
function union(one: Uint32Array | undefined, other: Uint32Array): Uint32Array {
  if (!one || one.length === 0) return other;
  let most = 0;
  for (const id of one) if (id > most) most = id;
  const isIn = new Uint8Array(most + 1);
  for (const id of one) isIn[id] = 1;
  const added = other.filter((id) => id > most || isIn[id] === 0);
  const out = new Uint32Array(one.length + added.length);
  out.set(one);
  out.set(added, one.length);
  return out;
}

/** Edges are pairs: none is left out for having a vertex in common with another. */
function bothEdges(a: Marks['edges'] = new Map(), b: Marks['edges'] = new Map()): Map<number, Uint32Array> {
  const out = new Map(a);
  for (const [node, ends] of b) {
    if (!out.has(node)) {
      out.set(node, ends);
      continue;
    }
    const pairs = new Map<string, readonly [number, number]>();
    const all = [...(out.get(node) ?? []), ...ends];
    for (let i = 0; i < all.length; i += 2)
      pairs.set(`${Math.min(all[i], all[i + 1])} ${Math.max(all[i], all[i + 1])}`, [all[i], all[i + 1]]);
    out.set(node, Uint32Array.from([...pairs.values()].flat()));
  }
  return out;
}
