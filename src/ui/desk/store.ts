import { type Remote, wrap } from 'comlink';
import { create } from 'zustand';
import { BRIEFS, briefById } from '@/core/house/briefs';
import { type Brief } from '@/core/house/brief';
import { countGravity } from '@/core/contracts/finding';
import { type Finding } from '@/core/contracts/finding';
import { type RoomId } from '@/core/contracts/rooms';
import { weightOfNodes } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import type { Step } from '@/core/contracts/step';
import { ApiError, api, fetchCharacter, fetchFindings } from '../kit/api';
import { type Pin, endOf } from '@/core/character/pin';
import { type Effects } from '@/core/contracts/effects';
import type { Hit, Snap, Stage, View } from '../stage/stage';
import { effectsText } from '@/core/contracts/effects-words';
import { keepLook, keptLook, lookOn, writtenLook } from './look';
import type { Surface } from '../stage/clay';
import type { Comparison, DeskWorker } from '../worker/desk.worker';
import type { Figure } from '../worker/figure';

export interface Revision {
  id: string;
  number: number;
  parent: string | null;
  label: string;
  step: Step;
  picture: string | null;
  createdAt: string;
  counts: { stops: number; worth: number; note: number } | null;
  note: string;
  effects: Effects;
}
export interface Sheet {
  id: string;
  name: string;
  brief: string;
  head: string;
  revisions: Revision[];
  pins: Pin[];
}

export interface DeskState {
  sheet: Sheet | null;
  character: Character | null;
  figure: Figure | null;
  findings: Finding[] | null;
  brief: Brief;
  room: RoomId;
  roomChosen: boolean;
  chosen: string | null;
  bone: number;
  hover: Hit | null;
  stage: Stage | null;
  surface: Surface;
  edges: boolean;
  seeThrough: boolean;
  twigs: boolean;
  through: boolean;
  twigSize: number;
  view: View;
  isolated: ReadonlySet<number> | null;
  hidden: ReadonlySet<number>;
  /** What a person has set on nodes by the scene's list. */
  locked: ReadonlySet<number>;
  tints: ReadonlyMap<number, string>;
  boxOn: boolean;
  /** Which page of the notebook lies open in placement. */
  page: 'findings' | 'measures' | 'scene';
  measuring: { from: Snap | null; over: Snap | null } | null;
  compared: { a: string; b: string; data: Comparison | null; show: 'difference' | 'first' | 'second' } | null;
  /** How far the opening of a large character has come. */
  arriving: { share: number; cancel: AbortController } | null;
  /** How far an audit has come, where one had to be made. */
  auditing: { share: number; stage: string; cancel: AbortController } | null;
  busy: string | null;
  error: string | null;
  said: string | null;
  drawer: 'ledger' | 'bones' | null;
  sheetOpen: 'palette' | 'keys' | 'docket' | null;
}

export const useDesk = create<DeskState>(() => initial());

function initial(): DeskState {
  return {
    sheet: null,
    character: null,
    figure: null,
    findings: null,
    brief: BRIEFS[0],
    room: 'placement',
    roomChosen: false,
    chosen: null,
    bone: -1,
    hover: null,
    stage: null,
    surface: 'clay',
    edges: false,
    seeThrough: false,
    twigs: true,
    through: true,
    twigSize: 1,
    view: 'front',
    isolated: null,
    hidden: new Set(),
    locked: new Set(),
    tints: new Map(),
    boxOn: false,
    page: 'findings',
    measuring: null,
    compared: null,
    arriving: null,
    auditing: null,
    busy: null,
    error: null,
    said: null,
    drawer: null,
    sheetOpen: null,
  };
}

const set = useDesk.setState;
const get = useDesk.getState;

let worker: Remote<DeskWorker> | null = null;
let thread: Worker | null = null;

/** The page's worker; made at first use, on the page only. */
export function deskWorker(): Remote<DeskWorker> {
  if (!worker) {
    thread = new Worker(new URL('../worker/desk.worker.ts', import.meta.url), { type: 'module' });
    worker = wrap<DeskWorker>(thread);
  }
  return worker;
}

export function closeDesk(): void {
  thread?.terminate();
  thread = null;
  worker = null;
  opened = null;
  set(initial());
}

const messageOf = (e: unknown) => (e instanceof Error ? e.message : String(e));

let opened: string | null = null;

/** Opens a character: its sheet, then the head revision with its arrays, its figure and its findings. */
export async function openDesk(id: string): Promise<void> {
  set({ busy: 'Opening …', error: null });
  try {
    const sheet = await api<Sheet>(`/api/characters/${id}`);
    await showRevision(sheet, true);
  } catch (error) {
    set({ error: messageOf(error), busy: null });
  }
}

async function showRevision(sheet: Sheet, first = false): Promise<void> {
  const brief = briefById(sheet.brief) ?? BRIEFS[0];
  if (opened !== sheet.head) {
    const cancel = new AbortController();
    set({ arriving: { share: 0, cancel } });
    const { character } = await fetchCharacter(
      sheet.head,
      (share) => set({ arriving: { share, cancel } }),
      cancel.signal,
    ).finally(() => set({ arriving: null }));
    const figure = await deskWorker().open(character);
    opened = sheet.head;
    const before = get().bone;
    const name = before >= 0 ? get().character?.nodes[before]?.name : undefined;
    const bone = name ? character.nodes.findIndex((n) => n.name === name) : -1;
    const last = get().character;
    const kept = last && !first ? lookOn(character, writtenLook(last, get())) : keptLook(sheet.id, character);
    set({ sheet, character, figure, brief, bone, findings: null, isolated: null, ...kept, measuring: null });
    get().stage?.show(figure, !first);
    refreshSurface();
    if (bone >= 0) void showWeights(bone);
  } else {
    set({ sheet, brief, findings: get().brief.id === brief.id ? get().findings : null });
  }
  const findings = await audited(sheet.head, brief.id);
  if (get().sheet?.head !== sheet.head) return;
  const counts = countGravity(findings);
  set((s) =>
    s.sheet
      ? {
          sheet: {
            ...s.sheet,
            revisions: s.sheet.revisions.map((r) => (r.id === sheet.head ? { ...r, counts } : r)),
          },
        }
      : {},
  );
  // The finding that was mended is gone: the next one of the room takes its place.
  const next =
    findings.find((f) => f.key === get().chosen) ??
    (get().roomChosen ? findings.find((f) => f.room === get().room) : undefined);
  set({ findings, busy: null, chosen: next?.key ?? null });
  if (next) {
    chooseFinding(next.key, false);
  } else {
    get().stage?.mark(null);
    get().stage?.choose(get().bone >= 0 ? new Set([get().bone]) : new Set());
  }
}

/** Told when a person breaks an audit off. */
const BROKEN_OFF = new ApiError(
  'The audit was broken off; reload the page to have it made after all.',
  499,
  {},
);

async function audited(revision: string, brief: string): Promise<Finding[]> {
  const cancel = new AbortController();
  try {
    return await fetchFindings(
      revision,
      brief,
      ({ stage, share }) => set({ auditing: { stage, share, cancel } }),
      cancel.signal,
    );
  } catch (error) {
    throw cancel.signal.aborted ? BROKEN_OFF : error;
  } finally {
    set({ auditing: null });
  }
}

/** Reloads the sheet and shows its head; after a step, an undo, or a conflict. */
export async function refresh(said: string | null = null): Promise<void> {
  const id = get().sheet?.id;
  if (!id) return;
  const sheet = await api<Sheet>(`/api/characters/${id}`);
  await showRevision(sheet);
  // Something newer may have been asked for meanwhile; its words stand.
  if (get().sheet?.head === sheet.head) set({ said });
}

/** Does something to the character on the server and shows what came of it. A conflict shows the newer revision. */
export async function perform(
  doing: string,
  work: (sheet: Sheet) => Promise<string | null>,
): Promise<boolean> {
  const { sheet } = get();
  if (!sheet || get().busy) return false;
  set({ busy: doing, error: null, said: null });
  try {
    const said = await work(sheet);
    await refresh(said);
    set({ busy: null });
    return true;
  } catch (error) {
    set({ error: messageOf(error), busy: null });
    // The words stay until something else is done, which may be before the newer revision is all there.
    if (error instanceof ApiError && error.status === 409) await refresh(null).catch(() => {});
    return false;
  }
}

export function applyRemedy(
  remedy: string,
  params: Record<string, unknown>,
  title: string,
): Promise<boolean> {
  return perform(`${title} …`, async (sheet) => {
    const answer = await api<{ revision: { number: number }; effects: Effects }>(
      `/api/characters/${sheet.id}/steps/remedy`,
      { method: 'POST', body: { base: sheet.head, remedy, params } },
    );
    return `Revision ${answer.revision.number}: ${title.toLowerCase()}. ${effectsText(answer.effects, get().brief.unit)}`;
  });
}

export function moveTo(revision: string | null | undefined, word: string): Promise<boolean> {
  const to = revision;
  if (!to) return Promise.resolve(false);
  return perform(`${word} …`, async (sheet) => {
    await api(`/api/characters/${sheet.id}/head`, { method: 'POST', body: { base: sheet.head, to } });
    const r = sheet.revisions.find((x) => x.id === to);
    return `${word}: back at revision ${r?.number}, “${r?.label}”.`;
  });
}

export const headOf = (s: Sheet | null) => s?.revisions.find((r) => r.id === s.head);
export const undoTarget = (s: Sheet | null) => headOf(s)?.parent ?? null;
/** The newest revision that was made on top of the head. */
export const redoTarget = (s: Sheet | null) =>
  s?.revisions.filter((r) => r.parent === s.head).sort((a, b) => b.number - a.number)[0]?.id ?? null;

export function setRoom(room: RoomId): void {
  const first = get().findings?.find((f) => f.room === room);
  set({ room, roomChosen: true, chosen: first?.key ?? null });
  if (room === 'weights') someBone();
  const url = new URL(window.location.href);
  url.searchParams.set('room', room);
  window.history.replaceState(null, '', url);
  set({ surface: room === 'weights' ? 'weights' : room === 'crosswalk' ? get().surface : 'clay' });
  refreshSurface();
  if (first) {
    chooseFinding(first.key, false);
  } else {
    get().stage?.mark(null);
    get().stage?.choose(get().bone >= 0 ? new Set([get().bone]) : new Set());
  }
}

/** The world places of a finding's elements, for the camera, and what to light up. */
export function chooseFinding(key: string | null, goThere = true): void {
  const { findings, figure, stage } = get();
  const f = findings?.find((x) => x.key === key);
  set({ chosen: f?.key ?? null });
  if (!stage || !figure) return;
  if (!f) {
    stage.mark(null);
    return;
  }
  const vertices = new Map<number, Uint32Array>();
  const polygons = new Map<number, Uint32Array>();
  const bones = new Set<number>();
  const places: number[][] = [];
  for (const e of f.elements) {
    const mesh = figure.meshes.find((m) => m.node === e.node);
    if (e.kind === 'vertex') vertices.set(e.node, e.ids);
    else if (e.kind === 'polygon') polygons.set(e.node, e.ids);
    else if (e.kind === 'bone') for (const b of e.ids) bones.add(b);
    else
      for (const n of e.ids) {
        const m = figure.meshes.find((x) => x.node === n);
        if (m)
          vertices.set(
            n,
            Uint32Array.from({ length: m.points.length / 3 }, (_, v) => v),
          );
      }
    if (mesh && e.kind === 'vertex')
      for (const v of e.ids)
        places.push([mesh.points[v * 3], mesh.points[v * 3 + 1], mesh.points[v * 3 + 2]]);
    if (mesh && e.kind === 'polygon') {
      const on = new Set(e.ids);
      mesh.polygonOf.forEach((p, t) => {
        if (on.has(p)) {
          const v = mesh.triangles[t * 3];
          places.push([mesh.points[v * 3], mesh.points[v * 3 + 1], mesh.points[v * 3 + 2]]);
        }
      });
    }
    if (e.kind === 'node')
      for (const [, ids] of vertices) {
        const m = figure.meshes.find((x) => vertices.get(x.node) === ids);
        if (m)
          for (let i = 0; i < m.points.length; i += 30)
            places.push([m.points[i], m.points[i + 1], m.points[i + 2]]);
      }
  }
  for (const b of figure.bones) if (bones.has(b.node)) places.push([...b.from], [...b.to]);
  stage.mark({ vertices, polygons, bones });
  if (goThere && places.length > 0) stage.frame(places);
}

/** The bone of a limb or the trunk that carries most: the one whose picture says something at once. */
function heaviestBone(): number {
  const { character, figure } = get();
  if (!character || !figure) return -1;
  const weight = weightOfNodes(character);
  const list = figure.bones.filter((b) => !b.helper && b.side === 'left' && weight[b.node] > 0);
  return (list.length > 0 ? list : figure.bones).reduce(
    (best, b) => (best < 0 || weight[b.node] > weight[best] ? b.node : best),
    -1,
  );
}

/** The picture of weights is of some bone. */
function someBone(): void {
  const node = get().bone < 0 ? heaviestBone() : -1;
  if (node >= 0) chooseBone(node);
}

/** The chosen bone's weights on the surface. */
export function lookAtWeights(): void {
  someBone();
  setLook({ surface: 'weights' });
}

export function stepFinding(by: 1 | -1): void {
  const { findings, room, chosen } = get();
  const list = findings?.filter((f) => f.room === room) ?? [];
  if (list.length === 0) return;
  const at = list.findIndex((f) => f.key === chosen);
  chooseFinding(list[(at + by + list.length) % list.length].key);
}

export function refreshSurface(): void {
  const {
    stage,
    surface,
    edges,
    seeThrough,
    twigs,
    through,
    twigSize,
    isolated,
    hidden,
    locked,
    tints,
    boxOn,
    brief,
  } = get();
  if (!stage) return;
  stage.surface(surface, edges, seeThrough);
  stage.twigsShown(twigs, through, twigSize);
  stage.isolate(isolated);
  stage.hide(hidden);
  stage.lock(locked);
  stage.tint(tints);
  stage.knownBox(boxOn ? knownSide(brief.unit) : null);
}

/** The side of the box that is held beside a figure: one of what the brief counts in, or a size that fits it. */
export const knownSide = (unit: Brief['unit']): number => ({ m: 1, cm: 0.5, mm: 0.1, in: 0.9144 })[unit];

export function setLook(
  change: Partial<
    Pick<
      DeskState,
      | 'surface'
      | 'edges'
      | 'seeThrough'
      | 'twigs'
      | 'through'
      | 'twigSize'
      | 'isolated'
      | 'hidden'
      | 'locked'
      | 'tints'
      | 'boxOn'
    >
  >,
): void {
  set(change);
  refreshSurface();
  const { sheet, character } = get();
  if (sheet && character && (change.hidden || change.locked || change.tints))
    keepLook(sheet.id, character, get());
}

export function look(view: View): void {
  set({ view });
  get().stage?.look(view);
}

async function showWeights(node: number): Promise<void> {
  const weights = await deskWorker().weights(node);
  if (get().bone === node) get().stage?.values(new Map(weights.map((w) => [w.node, w.weights])));
}

/** Chooses a bone: its twig is lit, and its weights are what the weights picture shows. */
export function chooseBone(node: number): void {
  set({ bone: node });
  get().stage?.choose(node >= 0 ? new Set([node]) : new Set());
  if (node >= 0) void showWeights(node);
}

/** Isolates what the chosen finding speaks of, with all that hangs under it where it is not a bone; else what is pointed at, the chosen bone, the first mesh. */
export function isolateChosen(): void {
  const { isolated, findings, chosen, hover, bone, figure, character } = get();
  if (isolated) {
    setLook({ isolated: null });
    return;
  }
  const f = findings?.find((x) => x.key === chosen);
  const nodes = new Set<number>();
  for (const e of f?.elements ?? []) {
    if (e.node >= 0) nodes.add(e.node);
    if (e.kind === 'bone') for (const b of e.ids) nodes.add(b);
  }
  const bones = new Set(figure?.bones.map((b) => b.node));
  const meshes = new Set(figure?.meshes.map((m) => m.node));
  const groups = new Set([...nodes].filter((n) => !bones.has(n)));
  for (let n = 0; n < (character?.nodes.length ?? 0); n++)
    for (let up = character?.nodes[n].parent ?? -1; up >= 0; up = character?.nodes[up].parent ?? -1)
      if (groups.has(up)) {
        nodes.add(n);
        break;
      }
  const seen = () => [...nodes].some((n) => bones.has(n) || meshes.has(n));
  if (!seen() && hover) nodes.add(hover.node);
  if (!seen() && bone >= 0) nodes.add(bone);
  if (!seen() && figure?.meshes[0]) nodes.add(figure.meshes[0].node);
  setLook({ isolated: nodes });
}

/** Another brief is another audit; broken off, the brief stays what it was. */
export async function setBrief(brief: string): Promise<void> {
  const before = get().sheet?.brief;
  if (!before || before === brief) return;
  const change = (to: string, said: string) => async (sheet: Sheet) => {
    await api(`/api/characters/${sheet.id}`, { method: 'PATCH', body: { brief: to } });
    return said;
  };
  await perform(
    'Auditing under the brief …',
    change(brief, `The brief is now “${briefById(brief)?.title}”.`),
  );
  if (get().error === BROKEN_OFF.message)
    await perform(
      'Going back …',
      change(before, `Cancelled; the brief is still “${briefById(before)?.title}”.`),
    );
}

/** Begins to measure between two points, or puts it down again. */
export function toggleMeasuring(): void {
  set({ measuring: get().measuring ? null : { from: null, over: null } });
}

/** Takes a point of a measure: the first is held, with the second the measure is pinned to the character. */
export async function takePoint(at: Snap): Promise<void> {
  const { measuring, character, sheet } = get();
  if (!measuring || !character || !sheet) return;
  if (!measuring.from) {
    set({ measuring: { from: at, over: at } });
    return;
  }
  const { from } = measuring;
  set({ measuring: null });
  try {
    set({
      sheet: await api<Sheet>(`/api/characters/${sheet.id}/pins`, {
        method: 'POST',
        body: { from: endOf(character, from.node, from.vertex), to: endOf(character, at.node, at.vertex) },
      }),
      page: 'measures',
    });
  } catch (error) {
    set({ error: messageOf(error), measuring: { from, over: at } });
  }
}

/** Names a pinned measure. True where it could be kept. */
export async function labelPin(pin: string, label: string): Promise<boolean> {
  const { sheet } = get();
  if (!sheet) return false;
  try {
    set({
      sheet: await api<Sheet>(`/api/characters/${sheet.id}/pins/${pin}`, {
        method: 'PATCH',
        body: { label },
      }),
    });
    return true;
  } catch (error) {
    set({ error: messageOf(error) });
    return false;
  }
}

export async function dropPin(pin: string): Promise<void> {
  const { sheet } = get();
  if (!sheet) return;
  try {
    set({ sheet: await api<Sheet>(`/api/characters/${sheet.id}/pins/${pin}`, { method: 'DELETE' }) });
  } catch (error) {
    set({ error: messageOf(error) });
  }
}

/** Writes on a revision: its label, its note. */
export async function writeOn(revision: string, words: { label?: string; note?: string }): Promise<void> {
  const { sheet } = get();
  if (!sheet) return;
  try {
    await api(`/api/revisions/${revision}`, { method: 'PATCH', body: words });
    set({ sheet: await api<Sheet>(`/api/characters/${sheet.id}`) });
  } catch (error) {
    set({ error: messageOf(error) });
  }
}

/** Lays two revisions beside each other: the second on the stage, coloured by how far it lies from the first. */
export async function compare(a: string, b: string): Promise<void> {
  const { brief } = get();
  set({ compared: { a, b, data: null, show: 'difference' }, error: null });
  try {
    const [first, second] = [await fetchCharacter(a), await fetchCharacter(b)];
    const data = await deskWorker().compare(first.character, second.character, brief.id);
    const now = get().compared;
    if (now?.a !== a || now.b !== b) return;
    set({ compared: { ...now, data } });
    showCompared('difference', true);
  } catch (error) {
    set({ error: messageOf(error), compared: null });
    showHead();
  }
}

export function showCompared(show: 'difference' | 'first' | 'second', fresh = false): void {
  const { compared, stage } = get();
  if (!compared?.data || !stage) return;
  const {
    figures: [first, second],
    apart,
    most,
  } = compared.data;
  set({ compared: { ...compared, show } });
  stage.show(copied(show === 'first' ? first : second), !fresh);
  const ghost = (f: Figure) => f.meshes.map((m) => ({ points: m.points.slice(), triangles: m.triangles }));
  if (show === 'difference') {
    stage.values(new Map(apart.map((x) => [x.node, x.distance.map((d) => (most > 1e-6 ? d / most : 0))])));
    if (most > 1e-6) stage.ghost(ghost(first));
  } else {
    stage.ghost(ghost(show === 'first' ? second : first));
  }
  stage.surface(show === 'difference' ? 'difference' : 'clay', get().edges, get().seeThrough);
  stage.hide(new Set());
}

/** The stage writes into the points that it shows. */
const copied = (f: Figure): Figure => ({
  ...f,
  meshes: f.meshes.map((m) => ({ ...m, points: m.points.slice() })),
});

/** Back from a comparison to the revision that is worked on. */
export function showHead(): void {
  const { stage, figure } = get();
  set({ compared: null });
  if (stage && figure) {
    stage.show(figure, true);
    refreshSurface();
  }
}
