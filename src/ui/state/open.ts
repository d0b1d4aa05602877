/** What comes onto the desk: a character, its newest revision, its findings. */
import { allNamed, finderOf } from '@/core/character/named';
import type { Character, Mesh } from '@/core/character/model';
import type { Finding } from '@/core/contracts/finding';
import { stepsLeft } from '@/core/contracts/step';
import { inOrderOfWork } from '@/core/house/audit';
import { briefKey } from '@/core/house/brief';
import { isKeyInMotion } from '@/core/house/registry';
import { type CharacterRecord, readCharacter } from '@/routes/characters';
import { ApiError, call, fetchCharacter, fetchFindings, messageOf } from '../kit/api';
import { isTried } from './document';
import { LatestRequest } from './latest-request';
import { keptLook, lookOn, writtenLook } from './kept-look';
import { NOTHING_PICKED, type Picked } from './selection';
import { hover, posing } from './pointer';
import { carriedPose, setTwinFollows, showPose } from './pose';
import { EMPTY_LINE } from '@/core/contracts/undo-line';
import { AT_REST, isAtRest } from './posed';
import { clearDesk, desk, setDesk } from './store';
import { setApart } from './waivers';
import { showOwners, showWeights } from './weights';
import { deskWorker, endWorkers } from './worker';

/** What is on its way onto the desk; a closed desk and a newer opening let go of it. */
const opening = new LatestRequest();

/** How often a step that was still at work when the page was opened is asked about, milliseconds. */
const POLL = 400;

export function closeDesk(): void {
  opening.drop();
  endWorkers();
  posing.set(null);
  hover.set(null);
  clearDesk();
}

/** Opens a character: its record, then the head revision with its arrays, its figure and its findings. */
export async function openDesk(id: string): Promise<void> {
  const isCurrent = opening.begin();
  setDesk({ busy: 'Opening …', error: null });
  try {
    const record = await call(readCharacter, { id });
    if (!isCurrent()) return;
    await showRevision(record, isCurrent);
    if (isCurrent() && record.working) await followStep(isCurrent);
    if (isCurrent()) tellBrokenOff();
  } catch (error) {
    if (isCurrent()) setDesk({ error: messageOf(error), busy: null });
  }
}

/** Says that a new delivery stands aside half done, to whoever opens the character. */
function tellBrokenOff(): void {
  const step = desk().record?.revisions.findLast((revision) => stepsLeft(revision.step) > 0)?.step;
  if (step?.kind !== 'delivery') return;
  const said = `A new delivery was broken off after ${step.rows?.length ?? 0} of ${step.again?.length ?? 0} steps; the ledger goes on with it.`;
  setDesk({ said });
}

/**
 * Waits for a step that is at work on the server since before this page was opened, and shows what came of
 * it.
 */
async function followStep(isCurrent: () => boolean): Promise<void> {
  const id = desk().record?.id;
  setDesk({ busy: 'A step is still at work …' });
  while (id && isCurrent()) {
    await new Promise((resolve) => setTimeout(resolve, POLL));
    if (!isCurrent()) return;
    const record = await call(readCharacter, { id });
    if (!isCurrent()) return;
    if (record.working) continue;
    await showRevision(record, isCurrent);
    return;
  }
}

async function showRevision(record: CharacterRecord, isCurrent: () => boolean): Promise<void> {
  const brief = record.wants;
  const before = desk();
  // Asked for at once: the findings come while the figure is put together.
  const audit = auditRevision(record.head, briefKey(brief), isCurrent);
  try {
    if (before.revision !== record.head) {
      await layRevision(record, isCurrent);
      if (!isCurrent()) return;
    } else {
      const audited = briefKey(before.brief) === briefKey(brief) ? before.audited : null;
      setDesk({ brief, ...setApart(record, record.head, audited, isTried(before)) });
    }
  } finally {
    // Where the figure does not come, nobody waits for the findings: their failure is not told beside its
    // own.
    audit.catch(() => {});
  }
  const findings = await audit;
  if (isCurrent()) showFindings(record.head, findings);
}

/**
 * Fetches a revision and lays it on the desk; what was chosen and set on nodes is found again by its names.
 */
async function layRevision(record: CharacterRecord, isCurrent: () => boolean): Promise<void> {
  const cancel = new AbortController();
  setDesk({ arriving: { share: 0, cancel } });
  const onShare = (share: number) => isCurrent() && setDesk({ arriving: { share, cancel } });
  const { character } = await fetchCharacter(record.head, onShare, cancel.signal).finally(
    () => isCurrent() && setDesk({ arriving: null }),
  );
  if (!isCurrent()) return;
  const figure = await deskWorker().open(character);
  if (!isCurrent()) return;
  const last = desk();
  const isSame = last.record?.id === record.id && last.character;
  const look = isSame ? lookOn(character, writtenLook(isSame, last)) : keptLook(record.id, character);
  const bone = isSame ? sameNode(isSame, character, last.bone) : -1;
  posing.set(null);
  // What was under the pointer belongs to the figure before.
  hover.set(null);
  setDesk({
    brief: record.wants,
    revision: record.head,
    character,
    figure,
    searches: new Map(),
    bone,
    ...setApart(record, record.head, null),
    isolated: null,
    hiddenPolygons: new Map(),
    partsLeft: new Map(),
    heat: null,
    picked: isSame ? carriedChoice(isSame, character, last.picked) : NOTHING_PICKED,
    weights: null,
    owners: null,
    draft: null,
    ghosts: null,
    pose: isSame ? carriedPose(last.pose, isSame, character) : AT_REST,
    poseLine: EMPTY_LINE,
    twins: null,
    ...look,
    heldBones: new Set(
      isSame
        ? [...last.heldBones].map((held) => sameNode(isSame, character, held)).filter((held) => held >= 0)
        : [],
    ),
  });
  if (!isAtRest(desk().pose)) void showPose();
  void setTwinFollows(desk().twinFollows);
  if (bone >= 0) void showWeights(bone);
  if (desk().surface === 'owners') void showOwners();
  void buildSearches(record.head);
}

/** The node of the same name, and the same place among its namesakes; −1 for none. */
function sameNode(before: Character, after: Character, node: number): number {
  if (node < 0) return -1;
  return finderOf(after.nodes.map((node) => node.name))(
    allNamed(before.nodes.map((node) => node.name))[node],
  );
}

/** What was chosen by hand, where it is still there: bones by name, points and polygons of meshes whose faces are what they were. */
function carriedChoice(before: Character, after: Character, { vertices, polygons, bones }: Picked): Picked {
  const carried = (ids: Picked['vertices']): Picked['vertices'] =>
    new Map(
      [...ids].flatMap(([node, some]): [number, Uint32Array][] => {
        const now = sameNode(before, after, node);
        const [was, is] = [before.meshes[before.nodes[node].mesh], after.meshes[after.nodes[now]?.mesh]];
        return is && hasSameFaces(was, is) ? [[now, some]] : [];
      }),
    );
  const kept: Picked = {
    vertices: carried(vertices),
    polygons: carried(polygons),
    bones: new Set([...bones].map((bone) => sameNode(before, after, bone)).filter((bone) => bone >= 0)),
  };
  return kept.vertices.size + kept.polygons.size + kept.bones.size > 0 ? kept : NOTHING_PICKED;
}

const hasSameFaces = (one: Mesh, other: Mesh): boolean =>
  one.vertexCount === other.vertexCount &&
  sameNumbers(one.polygonOffsets, other.polygonOffsets) &&
  sameNumbers(one.corners, other.corners);

const sameNumbers = (one: Uint32Array, other: Uint32Array): boolean =>
  one === other || (one.length === other.length && one.every((x, i) => x === other[i]));

/** Has the worker build the spatial search of every mesh, one after the other. */
async function buildSearches(revision: string): Promise<void> {
  for (const { node } of desk().figure?.meshes ?? []) {
    const search = await deskWorker().search(node);
    if (desk().revision !== revision) return;
    if (search) setDesk((state) => ({ searches: new Map(state.searches).set(node, search) }));
  }
}

/** What an audit found, with what shows of the same revision in motion where that was tried here: it stays known. */
function withMotion(found: readonly Finding[]): readonly Finding[] {
  const { audited } = desk();
  if (!isTried(desk()) || !audited) return found;
  const ofMotion = audited.filter(({ key }) => isKeyInMotion(key));
  return inOrderOfWork([...found.filter(({ key }) => !isKeyInMotion(key)), ...ofMotion]);
}

function showFindings(revision: string, found: readonly Finding[]): void {
  const { record, chosen, room, roomChosen } = desk();
  if (!record) return;
  const apart = setApart(record, revision, withMotion(found), isTried(desk()));
  const findings = apart.findings ?? [];
  // The finding that was mended is gone: the next one of the room takes its place.
  const same = findings.find((finding) => finding.key === chosen);
  const next = same ?? (roomChosen ? findings.find((finding) => finding.room === room) : undefined);
  setDesk({
    ...apart,
    busy: null,
    chosen: next?.key ?? null,
    // Whoever mended it by keyboard goes on where it stood.
    wantsFocus: chosen !== null && !same,
  });
}

/** Told where something is to be done and the hand has a draft open. */
export const NOT_KEPT =
  'Your hand has moved something that is not kept yet; keep it as a step or take it back first.';

/** Told when a person breaks an audit off. */
export const BROKEN_OFF = new ApiError(
  'The audit was broken off; reload the page to have it made after all.',
  499,
);

async function auditRevision(revision: string, brief: string, isCurrent: () => boolean): Promise<Finding[]> {
  const cancel = new AbortController();
  try {
    return await fetchFindings(
      revision,
      brief,
      ({ stage, share }) => isCurrent() && setDesk({ auditing: { stage, share, cancel } }),
      cancel.signal,
    );
  } catch (error) {
    throw cancel.signal.aborted ? BROKEN_OFF : error;
  } finally {
    if (isCurrent()) setDesk({ auditing: null });
  }
}

/** Fetches the record anew and shows its head; after a step, an undo, or a conflict. */
export async function refreshDesk(said: string | null = null): Promise<void> {
  const id = desk().record?.id;
  if (!id) return;
  const isCurrent = opening.begin();
  const record = await call(readCharacter, { id });
  if (!isCurrent()) return;
  await showRevision(record, isCurrent);
  // Something newer may have been asked for meanwhile; its words stand.
  if (isCurrent()) setDesk({ said });
}

/**
 * Does something to the character on the server and shows what came of it. A conflict shows the newer
 * revision.
 */
export async function perform(
  doing: string,
  work: (record: CharacterRecord) => Promise<string | null>,
  commitsDraft = false,
): Promise<boolean> {
  const { record, busy, draft } = desk();
  if (!record || busy) return false;
  if (draft && draft.steps > 0 && !commitsDraft) {
    setDesk({ error: NOT_KEPT });
    return false;
  }
  setDesk({ busy: doing, error: null, said: null });
  const isOpen = () => desk().record?.id === record.id;
  try {
    const said = await work(record);
    if (!isOpen()) return false;
    await refreshDesk(said);
    if (isOpen()) setDesk({ busy: null });
    return true;
  } catch (error) {
    if (!isOpen()) return false;
    setDesk({ error: messageOf(error), busy: null });
    // The words stay until something else is done, which may be before the newer revision is all there.
    if (error instanceof ApiError && error.status === 409) await refreshDesk(null).catch(() => {});
    return false;
  }
}
