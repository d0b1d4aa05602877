/** What one looks at: rooms, findings, bones, what is shown alone. */
import { branchOf } from '@/core/character/hierarchy';
import { characterHeight } from '@/core/character/measure';
import type { Character, ElementSet } from '@/core/character/model';
import { type ChosenThings, NOTHING_CHOSEN } from '@/core/house/by-hand';
import type { Finding } from '@/core/contracts/finding';
import { ROOM_IDS, type RoomId } from '@/core/contracts/rooms';
import type { View } from '../stage/view';
import type { Figure } from '../worker/figure';
import type { Chosen } from '../worker/isolation';
import { LatestRequest } from './latest-request';
import { standAsFound } from './pose';
import { placesOfElements, placesOfFinding, placesOfNode, spotsOfFinding } from './findings-places';
import { keepLook } from './kept-look';
import type { LookSlice } from './look';
import { camera, hover } from './pointer';
import { BY_HAND, NOTHING_PICKED, type Picked } from './selection';
import { type DeskState, desk, setDesk } from './store';
import { heaviestBone, showOwners, showWeights } from './weights';
import { deskWorker } from './worker';

/** How going to a room is kept in the browser's history. */
type History = 'push' | 'replace' | 'none';

/** Goes to a room; of its findings the first lies open. What was chosen by hand stays chosen. */
export function goToRoom(room: RoomId, history: History = 'push'): void {
  const { findings, room: before, roomChosen } = desk();
  const first = findings?.find((finding) => finding.room === room);
  setDesk({ room, roomChosen: true, chosen: first?.key ?? null });
  if (history === 'none') return;
  const isSame = room === before && roomChosen;
  const { pathname } = window.location;
  // In a task of its own: the browser's history is slow beside what is to be seen.
  setTimeout(() => {
    if (window.location.pathname === pathname) keepInAddress(room, history === 'push' && !isSame);
  });
}

function keepInAddress(room: RoomId, isNew: boolean): void {
  const url = new URL(window.location.href);
  url.searchParams.set('room', room);
  if (isNew) window.history.pushState(null, '', url);
  else window.history.replaceState(null, '', url);
}

/** The room that the address names; null where it names none. */
export function roomOfAddress(): RoomId | null {
  const wanted = new URL(window.location.href).searchParams.get('room');
  return ROOM_IDS.find((id) => id === wanted) ?? null;
}

/** What was chosen is no set, and nothing lies behind it. */
const NO_SET = { chosenSet: null, stacked: null } as const;

/** Chooses a finding: its elements are lit, and the camera goes there. */
export function chooseFinding(key: string | null, goThere = true): void {
  const { audited, figure, character } = desk();
  const finding = audited?.find((finding) => finding.key === key);
  setDesk({
    chosen: finding?.key ?? null,
    lastChosen: 'finding',
    picked: NOTHING_PICKED,
    element: -1,
    ...NO_SET,
  });
  if (!finding || !figure || !character || !goThere) return;
  const bone = boneOf(finding);
  if (finding.room === 'weights' && bone >= 0) lookAtBone(bone);
  if (finding.pose) standAsFound(finding.pose);
  const places = placesOfFinding(finding, figure);
  frame(finding.pose ? withRoom(places, character) : places);
}

/** The one bone that a finding speaks of, whose weights are then shown; −1 where it speaks of none, or of several. */
function boneOf({ subject, elements }: Finding): number {
  if (subject.kind === 'bone') return subject.index;
  const bones = new Set(elements.flatMap(({ kind, ids }) => (kind === 'bone' ? [...ids] : [])));
  const [only = -1] = bones;
  return bones.size === 1 ? only : -1;
}

/** So much round places of a posed figure is in the picture too, as a share of its height: they have moved. */
const ROOM_ROUND = 0.15;

function withRoom(places: readonly (readonly number[])[], character: Character): number[][] {
  const reach = ROOM_ROUND * characterHeight(character);
  return places.flatMap((place) => [-reach, reach].map((by) => place.map((x) => x + by)));
}

/** The next finding of the room, or the one before; the focus goes with it. */
export function stepFinding(by: 1 | -1): void {
  const { findings, room, chosen } = desk();
  const list = findings?.filter((finding) => finding.room === room) ?? [];
  if (list.length === 0) return;
  const at = list.findIndex((finding) => finding.key === chosen);
  const from = at < 0 && by < 0 ? 0 : at;
  chooseFinding(list[(from + by + list.length) % list.length].key);
  setDesk({ wantsFocus: true });
}

/** The next of the very things that the chosen finding speaks of, or the one before: the camera goes there. */
export function stepElement(by: 1 | -1): void {
  const { audited, chosen, figure, element } = desk();
  const finding = audited?.find(({ key }) => key === chosen);
  if (!finding || !figure) return;
  const spots = spotsOfFinding(finding, figure);
  if (spots.length === 0) return;
  const at = element < 0 && by < 0 ? spots.length - 1 : (element + by + spots.length) % spots.length;
  setDesk({ element: at });
  frame(spots[at]);
}

/** Chooses a bone: its twig is lit, and its weights are what the weights picture shows. −1 for none. */
export function chooseBone(bone: number): void {
  setDesk({ bone, lastChosen: 'bone', picked: NOTHING_PICKED, ...NO_SET });
  if (bone >= 0) void showWeights(bone);
}

/** Another bone's weights on the surface; what is chosen stays chosen. */
export function lookAtBone(bone: number): void {
  setDesk({ bone });
  if (bone >= 0) void showWeights(bone);
}

/** Chooses what a tool gathered on the stage. */
export function choosePicked(picked: Picked): void {
  const count = picked.vertices.size + picked.polygons.size + picked.bones.size + (picked.edges?.size ?? 0);
  setDesk({ picked, ...NO_SET, lastChosen: count > 0 ? 'picked' : 'finding' });
  const [only] = picked.bones;
  if (picked.bones.size === 1) {
    setDesk({ bone: only });
    void showWeights(only);
  }
}

/** Chooses what a set holds, all at once. */
export function chooseSet(name: string): void {
  const set = desk().character?.sets.find((candidate) => candidate.name === name);
  if (!set) return;
  const byNode = (list: ElementSet['vertices']) => new Map(list.map(({ node, ids }) => [node, ids]));
  choosePicked({
    vertices: byNode(set.vertices),
    polygons: byNode(set.polygons),
    bones: new Set(set.bones),
  });
  // One that has come to hold nothing can be chosen all the same, to be dissolved.
  setDesk({ chosenSet: name, lastChosen: 'picked' });
}

/** Shows a set in its colour, or no longer. */
export function toggleSet(name: string): void {
  const shownSets = new Set(desk().shownSets);
  if (!shownSets.delete(name)) shownSets.add(name);
  changeLook({ shownSets });
}

/** What is chosen by hand, as remedies take it. */
export function chosenOf({
  character,
  lastChosen,
  picked,
  bone,
  chosenSet,
}: Pick<DeskState, 'character' | 'lastChosen' | 'picked' | 'bone' | 'chosenSet'>): ChosenThings {
  if (lastChosen === 'bone') return bone >= 0 ? { ...NOTHING_CHOSEN, nodes: [bone] } : NOTHING_CHOSEN;
  if (lastChosen !== 'picked') return NOTHING_CHOSEN;
  const list = (ids: Picked['vertices']) => [...ids].map(([node, some]) => ({ node, ids: some }));
  const set = character?.sets.findIndex(({ name }) => name === chosenSet) ?? -1;
  return {
    nodes: [...picked.bones],
    vertices: list(picked.vertices),
    polygons: list(picked.polygons),
    sets: set >= 0 ? [set] : [],
  };
}

/** Opens the page on which all that can be done with what is chosen stands; a remedy of it where one is named. */
export const openByHand = (byHand: string | null = null): void => setDesk({ page: BY_HAND, byHand });

/** The chosen bone's weights on the surface; of some bone where none is chosen. */
export function lookAtWeights(): void {
  if (desk().bone < 0) {
    const bone = heaviestBone();
    if (bone >= 0) {
      setDesk({ bone });
      void showWeights(bone);
    }
  }
  changeLook({ surface: 'weights', heat: null });
}

/** The strongest bone of every point, in a tint of its own. */
export function lookAtOwners(): void {
  if (!desk().owners) void showOwners();
  changeLook({ surface: 'owners', heat: null });
}

/** Changes how the stage draws. What is set on nodes is kept in the browser. */
export function changeLook(change: Partial<LookSlice>): void {
  setDesk(change);
  const state = desk();
  const { record, character } = state;
  if (record && character && (change.hidden || change.locked || change.tints))
    keepLook(record.id, character, state);
}

/** Looks from a side. */
export function lookFrom(view: View): void {
  setDesk({ view });
  camera.set({ kind: 'look', view });
}

/** Brings places into the picture; none at all: the whole figure. */
export const frame = (places: readonly (readonly number[])[]): void => camera.set({ kind: 'frame', places });

/**
 * Brings what is chosen into the picture: what was gathered, the bone or the finding, whichever was chosen
 * last.
 */
export function frameChosen(): void {
  const state = desk();
  const { figure } = state;
  if (!figure) return;
  frame(placesOfChoice(state, figure));
}

function placesOfChoice(
  { lastChosen, picked, bone, audited, chosen }: DeskState,
  figure: Figure,
): number[][] {
  const ofBone = bone >= 0 ? placesOfNode(bone, figure) : [];
  if (lastChosen === 'picked') return placesOfPicked(picked, figure);
  if (lastChosen === 'bone') return ofBone;
  const finding = audited?.find((finding) => finding.key === chosen);
  const places = finding ? placesOfFinding(finding, figure) : [];
  return places.length > 0 ? places : ofBone;
}

const placesOfPicked = ({ vertices, polygons, bones }: Picked, figure: Figure): number[][] => [
  ...[...vertices].flatMap(([node, ids]) => placesOfElements({ kind: 'vertex', node, ids }, figure)),
  ...[...polygons].flatMap(([node, ids]) => placesOfElements({ kind: 'polygon', node, ids }, figure)),
  ...[...bones].flatMap((bone) => placesOfNode(bone, figure)),
];

const isolating = new LatestRequest();

/** Shows alone what was chosen last, down to its polygons; called again, shows all. */
export async function toggleIsolation(): Promise<void> {
  if (desk().isolated) {
    isolating.drop();
    changeLook({ isolated: null });
    return;
  }
  await isolate(chosenThings(desk()));
}

/** Shows these things alone; of a mesh that is not among them what they concern of it stays. */
export async function isolate(chosen: Chosen): Promise<void> {
  const isCurrent = isolating.begin();
  const { revision } = desk();
  const kept = await deskWorker().keep(chosen);
  if (!isCurrent() || desk().revision !== revision) return;
  changeLook({ isolated: { nodes: new Set([...chosen.nodes, ...chosen.bones, ...kept.keys()]), kept } });
}

const thing = (change: Partial<Chosen>): Chosen => ({
  nodes: [],
  bones: [],
  vertices: new Map(),
  polygons: new Map(),
  ...change,
});

/** What is to be shown alone: the last choice; else what is pointed at, the chosen bone, the first mesh. */
function chosenThings(state: DeskState): Chosen {
  const { figure, picked, bone, lastChosen } = state;
  const chosen =
    lastChosen === 'picked' ? thing({ ...picked, bones: [...picked.bones] }) : thing(ofFinding(state));
  const isShown = (node: number) =>
    !!figure?.bones.some((bone) => bone.node === node) || isMesh(node, figure);
  const seen =
    chosen.vertices.size + chosen.polygons.size > 0 || [...chosen.nodes, ...chosen.bones].some(isShown);
  if (lastChosen !== 'bone' && seen) return chosen;
  if (bone >= 0 && lastChosen === 'bone') return thing({ bones: [bone] });
  const under = hover.value;
  if (under) return under.kind === 'bone' ? thing({ bones: [under.node] }) : thing({ nodes: [under.node] });
  if (bone >= 0) return thing({ bones: [bone] });
  return thing({ nodes: figure?.meshes[0] ? [figure.meshes[0].node] : [] });
}

const isMesh = (node: number, figure: Figure | null) => !!figure?.meshes.some((mesh) => mesh.node === node);

/** What a finding speaks of; nodes with all that hangs under them. */
function ofFinding({ audited, chosen, character }: DeskState): Partial<Chosen> {
  const finding = audited?.find((finding) => finding.key === chosen);
  const vertices = new Map<number, Uint32Array>();
  const polygons = new Map<number, Uint32Array>();
  const nodes: number[] = [];
  const bones: number[] = [];
  for (const element of finding?.elements ?? []) {
    if (element.kind === 'vertex' || element.kind === 'edge')
      vertices.set(element.node, Uint32Array.from(new Set(element.ids)));
    if (element.kind === 'polygon') polygons.set(element.node, element.ids);
    if (element.kind === 'node') nodes.push(...element.ids);
    if (element.kind === 'bone') bones.push(...element.ids);
  }
  if (!character || nodes.length === 0) return { vertices, polygons, bones };
  const inside = branchOf(character.nodes, nodes);
  return { vertices, polygons, bones, nodes: character.nodes.flatMap((_, i) => (inside[i] ? [i] : [])) };
}
