/**
 * What stands on the desk, and what becomes of it when steps, undoing and other people's steps meet. The
 * page's worker runs in this thread.
 */
import 'fake-indexeddb/auto';
import { pack } from '@/core/character/bundle';
import { type Character, node } from '@/core/character/model';
import { toStored } from '@/core/character/stored';
import { audit } from '@/core/house/audit';
import type { ChangeEffects } from '@/core/contracts/effects';
import { briefKey } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { applyPatches, unpackPatches } from '@/core/house/edit';
import { restPlace } from '@/core/character/hierarchy';
import type * as Choose from '@/ui/state/choose';
import type * as Compared from '@/ui/state/compare';
import type * as Draft from '@/ui/state/draft';
import type * as KeptDraft from '@/ui/state/kept-draft';
import type * as Open from '@/ui/state/open';
import type * as Pointer from '@/ui/state/pointer';
import type * as MeasuringModule from '@/ui/state/measuring';
import type * as Steps from '@/ui/state/steps';
import type * as Store from '@/ui/state/store';
import type * as Dockets from '@/ui/state/dockets';
import type * as Waivers from '@/ui/state/waivers';
import type * as StageViews from '@/ui/state/stage-view-of';
import type * as WalkChanges from '@/ui/rooms/crosswalk/changes';
import type * as Poses from '@/ui/rooms/crosswalk/shown-pose';
import type * as Choices from '@/ui/rooms/crosswalk/choice';
import type * as Walk from '@/ui/rooms/crosswalk/session';
import { countGravity } from '@/core/contracts/finding';
import { type Waiver, takeWaivers, toldOf, waiverFile, waiverFor } from '@/core/contracts/waiver';
import type { WaiverRecord } from '@/routes/waivers';
import { redoTarget, undoTarget } from '@/ui/state/document';
import { meshFrom, tube } from '../core/support/build';
import { box } from '../core/support/figure';

const mockWorker: { desk: unknown } = { desk: null };
jest.mock('comlink', () => ({
  expose: (desk: unknown) => {
    mockWorker.desk = Object.assign(mockWorker.desk ?? {}, desk);
  },
  transfer: (x: unknown) => x,
  wrap: () => mockWorker.desk,
}));

/** Ids as the database makes them. */
const idOf = (kind: 'c' | 'r', n: number) =>
  `${kind === 'c' ? '0000000c' : '00000000'}-0000-4000-8000-${String(n).padStart(12, '0')}`;
const otherCharacter = idOf('c', 1);
const R1 = idOf('r', 1);
const R2 = idOf('r', 2);
const R3 = idOf('r', 3);

interface Kept {
  id: string;
  number: number;
  parent: string | null;
  character: Character;
  label: string;
}

const NO_ANSWER = { message: 'There is no such thing.' };
const OVERTAKEN =
  'This step was made on revision 1, and revision 2 has come since; look at that one and do the step again. Nothing was lost.';

/**
 * A server of one character in memory: its revisions, where its head is, and how its answers can be held
 * back.
 */
class House {
  readonly revisions: Kept[] = [];
  /** Other characters, with a revision each. */
  readonly others = new Map<string, Kept>();
  head = '';
  brief = 'handset';
  pins: unknown[] = [];
  waivers: WaiverRecord[] = [];
  dockets: { id: string; by: string }[] = [];
  /** What becomes of a handing over. */
  sealing: 'done' | 'refused' | 'lost' = 'done';
  working = false;
  renamed = false;
  saved: unknown[] = [];
  readonly asked: string[] = [];
  /** Requests that match wait until this is settled. */
  hold: { match: RegExp; until: Promise<void> } | null = null;
  audits = new Set(['handset']);

  add(character: Character, parent: string | null, label: string): string {
    const number = this.revisions.length + 1;
    const id = idOf('r', number);
    this.revisions.push({ id, number, parent, character, label });
    this.head = id;
    return id;
  }

  addOther(n: number, character: Character): string {
    const id = idOf('c', n);
    const kept = { id: idOf('r', 100 + n), number: 1, parent: null, character, label: 'as delivered' };
    this.others.set(id, kept);
    return id;
  }

  private record(id = otherCharacter) {
    const other = this.others.get(id);
    const revisions = other ? [other] : this.revisions;
    return {
      id,
      name: other ? 'Other' : 'Crate',
      brief: this.brief,
      wants: briefById(this.brief)!,
      head: other?.id ?? this.head,
      pins: this.pins,
      poses: [],
      waivers: this.waivers,
      working: this.working,
      revisions: revisions.map(({ character: _character, ...row }) => ({
        ...row,
        step: { kind: 'import', files: [], notes: [] },
        picture: null,
        createdAt: '2026-11-25',
        counts: null,
        note: '',
        effects: { kind: 'none' },
      })),
    };
  }

  private find(id: string): Kept {
    return [...this.revisions, ...this.others.values()].find((kept) => kept.id === id)!;
  }

  async answer(url: string, init: RequestInit = {}): Promise<Response> {
    const method = init.method ?? 'GET';
    this.asked.push(`${method} ${url}`);
    if (this.hold?.match.test(`${method} ${url}`)) {
      const given = new Promise((_, no) =>
        init.signal?.addEventListener('abort', () => no(new DOMException('aborted', 'AbortError'))),
      );
      await Promise.race([this.hold.until, given]);
    }
    const path = new URL(url, 'http://x').pathname;
    const asked = { path, method, init, query: new URL(url, 'http://x').searchParams };
    return (
      this.answerRevision(asked) ??
      this.answerStep(asked) ??
      this.answerCharacter(asked) ??
      Response.json(NO_ANSWER, { status: 404 })
    );
  }

  private answerRevision({ path, method, init, query }: Asked): Response | null {
    const audited = /^\/api\/revisions\/([\w-]+)\/audit$/.exec(path);
    if (audited) {
      const brief = query.get('brief')!.replace(/@\d+$/, '');
      if (method === 'POST') {
        this.audits.add(brief);
        return new Response(`${JSON.stringify({ stage: 'done', share: 1 })}\n`);
      }
      return this.audits.has(brief)
        ? new Response(pack(audit(this.find(audited[1]).character, briefById(brief)!)) as ArrayBuffer)
        : new Response(null, { status: 204 });
    }
    const revision = /^\/api\/revisions\/([\w-]+)$/.exec(path);
    if (revision) return Response.json(toStored(this.find(revision[1]).character).stored);
    if (path !== '/api/arrays') return null;
    const every = [...this.revisions, ...this.others.values()];
    const all = new Map(every.flatMap((kept) => [...toStored(kept.character).bytes]));
    const { hashes } = JSON.parse(String(init.body)) as { hashes: string[] };
    return new Response(
      pack(Object.fromEntries(hashes.map((hash) => [hash, all.get(hash)!]))) as ArrayBuffer,
    );
  }

  private answerStep({ path, init, query }: Asked): Response | null {
    if (path === `/api/characters/${otherCharacter}/steps/edit`) {
      const patches = unpackPatches(init.body as Uint8Array);
      this.saved.push({ base: query.get('base'), patches });
      const before = this.find(this.head).character;
      const { character } = applyPatches(before, patches, briefById(this.brief)!);
      this.add(character, this.head, 'by hand');
      return this.stepAnswer();
    }
    if (path !== `/api/characters/${otherCharacter}/steps/remedy`) return null;
    const body = JSON.parse(String(init.body)) as { base: string; remedy: string };
    if (body.base !== this.head) return Response.json({ message: OVERTAKEN }, { status: 409 });
    this.add({ ...this.find(this.head).character, name: body.remedy }, this.head, body.remedy);
    return this.stepAnswer();
  }

  private stepAnswer(): Response {
    const { id, number } = this.revisions[this.revisions.length - 1];
    const answer = { revision: { id, number }, effects: TOUCHED_CRATE, counts: NO_COUNTS, notes: [] };
    return Response.json(answer, { status: 201 });
  }

  private answerCharacter({ path, method, init }: Asked): Response | null {
    const body = typeof init.body === 'string' ? (JSON.parse(init.body) as Record<string, string>) : {};
    if (path === '/api/characters') {
      const characters = [...this.others.keys()].map((id) => {
        const { name, brief, head } = this.record(id);
        const bones = this.others.get(id)!.character.nodes.filter((node) => node.kind === 'bone').length;
        return { id, name, brief, head, updatedAt: '2026-11-25', bones };
      });
      return Response.json({ characters, briefs: {} });
    }
    if (path === '/api/dockets') return Response.json({ dockets: this.dockets });
    if (path === `/api/characters/${otherCharacter}/dockets`) return this.seal(body as never);
    if (path === '/api/crosswalks') return Response.json({ file: null });
    const character = /^\/api\/characters\/([\w-]+)$/.exec(path);
    if (path === `/api/characters/${otherCharacter}/head`) this.head = body.to;
    else if (path === `/api/characters/${otherCharacter}/pins`)
      this.pins = [...this.pins, { id: idOf('r', 77), label: '', ...body }];
    else if (path === `/api/characters/${otherCharacter}/waivers`) return this.waive(body as never);
    else if (path === `/api/characters/${otherCharacter}/waivers/file`) return this.bring(body as never);
    else if (path.endsWith('/withdrawal')) {
      this.waivers = this.waivers.map((waiver) => ({
        ...waiver,
        withdrawn: { at: '2026-11-27', by: body.by },
      }));
      return Response.json({ waivers: this.waivers });
    } else if (!character || (character[1] !== otherCharacter && !this.others.has(character[1]))) return null;
    if (character && method === 'PATCH') {
      this.brief = body.brief ?? this.brief;
      this.renamed ||= 'name' in body;
    }
    return Response.json(this.record(character?.[1]));
  }

  private seal(what: { revision: string; by: string; note: string }): Response {
    const line = (x: object) => `${JSON.stringify(x)}\n`;
    if (this.sealing === 'refused')
      return new Response(line({ stage: 'refused', share: 1, message: 'The disk of the house is full.' }));
    if (this.sealing === 'lost') return new Response(line({ stage: 'writing', share: 0.3 }));
    const id = idOf('r', 200 + this.dockets.length);
    const { revision: _, ...said } = what;
    const counts = { stops: 0, worth: 0, note: 0 };
    const file = { fileName: 'crate.glb', fileBytes: 4, sha256: 'a'.repeat(64), picture: 'b'.repeat(64) };
    const of = {
      character: otherCharacter,
      name: 'Crate',
      revision: 1,
      brief: 'handset@1',
      briefTitle: 'Handset',
    };
    const docket = { id, ...of, ...said, counts, waived: 0, leftOut: 0, ...file, at: '2026-11-27' };
    this.dockets = [docket, ...this.dockets];
    return new Response(line({ stage: 'writing', share: 0.3 }) + line({ stage: 'done', share: 1, id }));
  }

  private bring({ waivers: offered }: { waivers: Waiver[] }): Response {
    const stands = this.waivers.filter((waiver) => !waiver.withdrawn).map((waiver) => waiver.waiver);
    const { taken, left } = takeWaivers(offered, state().audited!.map(toldOf), stands, {
      today: '2026-11-27',
    });
    for (const { waiver, findings } of taken) {
      const id = idOf('r', 90 + this.waivers.length);
      this.waivers = [
        ...this.waivers,
        { id, waiver, findings, revision: 1, at: '2026-11-27', withdrawn: null },
      ];
    }
    return Response.json({ waivers: this.waivers, taken: taken.length, left });
  }

  private waive({ keys, ...words }: { keys: string[]; reason: string; by: string }): Response {
    const findings = state()
      .audited!.filter((finding) => keys.includes(finding.key))
      .map(toldOf);
    const id = idOf('r', 90 + this.waivers.length);
    const waiver = waiverFor(findings, words);
    this.waivers = [
      ...this.waivers,
      { id, waiver, findings, revision: 1, at: '2026-11-27', withdrawn: null },
    ];
    return Response.json({ waivers: this.waivers });
  }
}

interface Asked {
  readonly path: string;
  readonly method: string;
  readonly init: RequestInit;
  readonly query: URLSearchParams;
}

const NO_COUNTS = { stops: 0, worth: 0, note: 0 };
const TOUCHED_CRATE: ChangeEffects = {
  kind: 'changed',
  nodes: ['crate'],
  meshes: [],
  skins: 0,
  joints: [],
  clips: [],
  removed: [],
  largestMove: 0,
  vertices: [8, 8],
  scale: 1,
  outside: [],
  others: { largest: 0, where: '', poses: 8, meshes: 0, holds: 'in every pose' },
};

/** A promise and what settles it. */
function gate(): { until: Promise<void>; open: () => void } {
  let open = () => {};
  const until = new Promise<void>((resolve) => {
    open = resolve;
  });
  return { until, open };
}

const soon = () => new Promise((resolve) => setTimeout(resolve, 5));

/** The tube with a crate that hangs under a holder, beside it. */
const crated = (holder = 'holder'): Character => {
  const target = tube();
  const b = box([0, 0, 0], [0.2, 0.2, 0.2]);
  return {
    ...target,
    meshes: [...target.meshes, { ...meshFrom(b.points, b.polygons), name: 'crate' }],
    nodes: [
      ...target.nodes,
      node({ name: holder }),
      node({ name: 'crate', kind: 'mesh', mesh: 1, parent: 3 }),
    ],
    carried: { ...target.carried, scenes: [{ json: {}, roots: [0, 2, 3] }] },
  };
};

let store: typeof Store;
let open: typeof Open;
let choose: typeof Choose;
let measuring: typeof MeasuringModule;
let steps: typeof Steps;
let waivers: typeof Waivers;
let dockets: typeof Dockets;
let comparing: typeof Compared;
let drafts: typeof Draft;
let keptDrafts: typeof KeptDraft;
let pointer: typeof Pointer;
let views: typeof StageViews;
let walk: typeof Walk;
let walkChanges: typeof WalkChanges;
let choices: typeof Choices;
let stands: typeof import('@/ui/state/pose');
let strokes: typeof import('@/ui/state/stroke');
let strokeLine: typeof import('@/ui/state/stroke-line');
let poses: typeof Poses;
let house: House;
const state = () => store.desk();
const given = { fetch: globalThis.fetch, Worker: globalThis.Worker };

beforeAll(async () => {
  globalThis.Worker = class {
    terminate() {
      /* there is none */
    }
  } as never;
  const noAddressBar = () => {};
  const history = { replaceState: noAddressBar, pushState: noAddressBar };
  Object.assign(globalThis, { window: { location: { href: 'http://x/c' }, history } });
  await import('@/ui/worker/desk.worker');
  await import('@/ui/worker/solve.worker');
  store = await import('@/ui/state/store');
  open = await import('@/ui/state/open');
  choose = await import('@/ui/state/choose');
  measuring = await import('@/ui/state/measuring');
  steps = await import('@/ui/state/steps');
  waivers = await import('@/ui/state/waivers');
  dockets = await import('@/ui/state/dockets');
  comparing = await import('@/ui/state/compare');
  drafts = await import('@/ui/state/draft');
  keptDrafts = await import('@/ui/state/kept-draft');
  pointer = await import('@/ui/state/pointer');
  views = await import('@/ui/state/stage-view-of');
  walk = await import('@/ui/rooms/crosswalk/session');
  walkChanges = await import('@/ui/rooms/crosswalk/changes');
  choices = await import('@/ui/rooms/crosswalk/choice');
  poses = await import('@/ui/rooms/crosswalk/shown-pose');
  stands = await import('@/ui/state/pose');
  strokes = await import('@/ui/state/stroke');
  strokeLine = await import('@/ui/state/stroke-line');
});
afterAll(() => {
  globalThis.fetch = given.fetch;
  globalThis.Worker = given.Worker;
});
// The address is written in a task of its own.
afterEach(() => new Promise((done) => setTimeout(done)));
beforeEach(async () => {
  open.closeDesk();
  house = new House();
  house.add(crated(), null, 'as delivered');
  globalThis.fetch = ((url: string, init?: RequestInit) => house.answer(url, init)) as typeof fetch;
  await open.openDesk(otherCharacter);
});

it('opens the head with its figure and what was found', () => {
  expect([
    state().record?.head,
    state().figure?.meshes.map((mesh) => mesh.name),
    state().busy,
    state().error,
  ]).toEqual([R1, ['tube', 'crate'], null, null]);
  expect(state().findings!.length).toBeGreaterThan(0);
  expect(state().character).toEqual(crated());
});

it('a character that is gone says so, and the desk is not left waiting', async () => {
  await open.openDesk(idOf('c', 9));
  expect([state().error, state().busy]).toEqual(['There is no such thing.', null]);
});

describe('steps', () => {
  it('are told with what they touched, and the new revision is shown', async () => {
    expect(await steps.applyRemedy('centre', {}, 'Centre')).toBe(true);
    expect([state().record?.head, state().said, state().character?.name]).toEqual([
      R2,
      'Revision 2: centre. Touched 1 node (crate). There was nothing else that could have moved.',
      'centre',
    ]);
  });
  it('on a revision that has been overtaken are refused with the sentence, and the newer one is shown', async () => {
    house.add({ ...crated(), name: 'theirs' }, R1, 'by somebody else');
    expect(await steps.applyRemedy('centre', {}, 'Centre')).toBe(false);
    expect([state().error, state().record?.head, state().character?.name]).toEqual([
      expect.stringMatching(/revision 2 has come since/),
      R2,
      'theirs',
    ]);
  });
  it('two at once: the second waits for nothing and is not begun', async () => {
    const first = steps.applyRemedy('centre', {}, 'Centre');
    expect(await steps.applyRemedy('rescale', {}, 'Rescale')).toBe(false);
    expect(await first).toBe(true);
    expect(house.revisions.map((revision) => revision.label)).toEqual(['as delivered', 'centre']);
  });
  it('undo goes to the parent, redo to the newest that was made on it', async () => {
    await steps.applyRemedy('one', {}, 'One');
    await steps.moveTo(undoTarget(state().record), 'Undone');
    expect([state().record?.head, state().said]).toEqual([R1, 'Undone: back at revision 1, “as delivered”.']);
    await steps.applyRemedy('two', {}, 'Two');
    await steps.moveTo(undoTarget(state().record), 'Undone');
    // Two branches leave the first revision now.
    expect(redoTarget(state().record)).toBe(R3);
    expect(undoTarget(state().record)).toBeNull();
    expect(await steps.moveTo(undoTarget(state().record), 'Undone')).toBe(false);
  });
});

describe('what was found in motion', () => {
  const motionKey = 'flies-off/bone/shin';
  /** As a trial leaves the desk: its findings among those at rest. */
  const tried = (check = 'flies-off') => {
    const { audited, revision, brief, record } = state();
    const moved = { ...audited![0], check, key: motionKey, room: 'trials' as const };
    store.setDesk({
      tried: { revision: revision!, brief: briefKey(brief), rows: [], since: null },
      ...waivers.setApart(record!, revision!, [...audited!, moved], true),
    });
  };
  const keys = () => state().findings!.map(({ key }) => key);

  it('stays when the same revision is looked up again, and goes with the next one', async () => {
    const atRest = keys();
    tried();
    await open.refreshDesk();
    expect(keys().filter((key) => key === motionKey)).toHaveLength(1);
    expect(keys().filter((key) => key !== motionKey)).toEqual(atRest);
    house.add(crated(), R1, 'again');
    await open.refreshDesk();
    expect(keys()).not.toContain(motionKey);
  });
  it('is tried anew after a hand-over, where it was held against what went out before', async () => {
    tried();
    await dockets.handOver({ items: null, format: 'glb', by: 'R. Lindqvist', note: '' });
    expect(state().tried).not.toBeNull();
    tried('bends-worse');
    await dockets.handOver({ items: null, format: 'glb', by: 'R. Lindqvist', note: '' });
    expect(state().tried).toBeNull();
  });
});

describe('another brief', () => {
  it('is audited where it has not been, and that is told', async () => {
    const stages: (string | undefined)[] = [];
    const off = store.useDesk.subscribe((state) => stages.push(state.auditing?.stage));
    await steps.setBrief(briefById('headset')!);
    off();
    expect([state().brief.id, state().said, stages.filter(Boolean)[0], state().auditing]).toEqual([
      'headset',
      'The brief is now “Night Ferry, headset hands”.',
      'auditing',
      null,
    ]);
    expect(house.renamed).toBe(false);
    const asked = house.asked.length;
    await steps.setBrief(briefById('headset')!);
    expect(house.asked.length).toBe(asked);
  });
  it('broken off stays what it was, with its findings', async () => {
    const before = state().findings!.map((finding) => finding.key);
    house.hold = {
      match: /^POST .*audit\?brief=headset/,
      until: new Promise(() => {
        /* never */
      }),
    };
    const asking = steps.setBrief(briefById('headset')!);
    while (!state().auditing) await new Promise((resolve) => setTimeout(resolve, 5));
    // Findings of the old brief are not shown under the new one.
    expect([state().brief.id, state().findings]).toEqual(['headset', null]);
    state().auditing!.cancel.abort();
    await asking;
    expect([house.brief, state().brief.id, state().said, state().error]).toEqual([
      'handset',
      'handset',
      'Cancelled; the brief is still “Night Ferry, handset”.',
      null,
    ]);
    expect(state().findings!.map((finding) => finding.key)).toEqual(before);
  });
});

it('the picture of weights is of some bone: of the one that carries most, until another is chosen', () => {
  choose.lookAtWeights();
  // Both bones of the tube carry the same; the first of them it is.
  expect([state().surface, state().character!.nodes[state().bone].name]).toEqual(['weights', 'lower']);
  choose.chooseBone(1);
  choose.changeLook({ surface: 'clay' });
  choose.lookAtWeights();
  expect(state().bone).toBe(1);
});

describe('what is set on nodes', () => {
  const kept = new Map<string, string>();
  beforeEach(() => {
    kept.clear();
    globalThis.localStorage = {
      getItem: (key: string) => kept.get(key) ?? null,
      setItem: (key: string, v: string) => {
        kept.set(key, v);
      },
      removeItem: (key: string) => {
        kept.delete(key);
      },
    } as never;
  });
  afterEach(() => {
    delete (globalThis as { localStorage?: unknown }).localStorage;
  });
  const opened = async () => {
    open.closeDesk();
    await open.openDesk(otherCharacter);
    return [[...state().hidden], [...state().locked], [...state().tints]];
  };

  it('is there again when the page is opened again, also on a revision that counts otherwise, and goes when it is taken off', async () => {
    choose.changeLook({ hidden: new Set([4]), locked: new Set([2]), tints: new Map([[3, '#7fa08c']]) });
    expect(await opened()).toEqual([[4], [2], [[3, '#7fa08c']]]);
    const target = crated();
    house.add(
      {
        ...target,
        nodes: [
          node({ name: 'holder', kind: 'light' }),
          ...target.nodes.map((node) => ({ ...node, parent: node.parent < 0 ? -1 : node.parent + 1 })),
        ],
        skins: target.skins.map((skin) => ({ ...skin, joints: skin.joints.map((j) => j + 1), skeleton: -1 })),
      },
      R1,
      'a namesake before it',
    );
    // The tint was on the first “holder”, and the first is another node now: the name and its place among
    // namesakes are what is kept.
    expect(await opened()).toEqual([[5], [3], [[0, '#7fa08c']]]);
    choose.changeLook({ hidden: new Set(), locked: new Set(), tints: new Map() });
    expect([kept.size, await opened()]).toEqual([0, [[], [], []]]);
  });
  it('that cannot be read is as if it were not there, and a window that keeps nothing still shows it', async () => {
    for (const text of [
      '{',
      '{}',
      '{"hidden":[null],"locked":[],"tints":[]}',
      '{"hidden":[{"name":"gone","nth":0}],"locked":[],"tints":[]}',
    ]) {
      kept.set(`look ${otherCharacter}`, text);
      expect(await opened()).toEqual([[], [], []]);
    }
    Object.assign(globalThis.localStorage, {
      setItem() {
        throw new Error('quota');
      },
    });
    choose.changeLook({ hidden: new Set([4]) });
    expect([...state().hidden]).toEqual([4]);
  });
  it('follows their names to the next revision, where they count otherwise', async () => {
    choose.changeLook({ hidden: new Set([4]), locked: new Set([2]), tints: new Map([[4, '#7fa08c']]) });
    const target = crated();
    const moved: Character = {
      ...target,
      nodes: [
        target.nodes[0],
        target.nodes[1],
        node({ name: 'new one' }),
        target.nodes[2],
        { ...target.nodes[3] },
        { ...target.nodes[4], parent: 4 },
      ],
    };
    house.add(moved, R1, 'with one more');
    await open.refreshDesk();
    expect([[...state().hidden], [...state().locked], [...state().tints]]).toEqual([
      [5],
      [3],
      [[5, '#7fa08c']],
    ]);
  });
  const finding = (kind: 'node' | 'bone', node: number) =>
    store.setDesk({
      audited: [
        { ...state().findings![0], key: 'k', elements: [{ kind, node: -1, ids: Uint32Array.of(node) }] },
      ],
      chosen: 'k',
      lastChosen: 'finding',
    });
  it('isolating a holder takes what hangs under it', async () => {
    finding('node', 3);
    await choose.toggleIsolation();
    expect([...state().isolated!.nodes].sort()).toEqual([3, 4]);
    await choose.toggleIsolation();
    expect(state().isolated).toBeNull();
  });
  it('isolating a bone hides the rest of its mesh: only polygons that it carries stay', async () => {
    finding('bone', 1);
    await choose.toggleIsolation();
    const { nodes, kept } = state().isolated!;
    expect([...nodes].sort()).toEqual([1, 2]);
    const all = state().figure!.meshes.find((mesh) => mesh.node === 2)!.triangles.length;
    expect(kept.get(2)!.triangles.length).toBeGreaterThan(0);
    expect(kept.get(2)!.triangles.length).toBeLessThan(all);
    expect(views.stageViewOf(state()).isolated).toBe(state().isolated);
  });
});

describe('waiving', () => {
  const words = { reason: 'as agreed', by: 'A lead' };
  it('sets the finding apart, gives its place to the next of the room, and brings it back when withdrawn', async () => {
    const before = state().findings!.map((finding) => finding.key);
    const [first] = state().findings!;
    choose.goToRoom(first.room, 'none');
    expect(state().chosen).toBe(first.key);
    expect(await waivers.waive([first.key], words)).toBe(true);
    expect(state().findings!.map((finding) => finding.key)).toEqual(before.slice(1));
    expect(state().waived.map((finding) => [finding.finding.key, finding.waiver.reason])).toEqual([
      [first.key, 'as agreed'],
    ]);
    expect(state().chosen).not.toBe(first.key);
    expect(state().record!.revisions[0].counts).toEqual(countGravity(state().findings!));
    // It can still be looked at, and is lit on the stage.
    choose.chooseFinding(first.key);
    expect(state().chosen).toBe(first.key);
    expect(await waivers.withdraw(state().waived[0].waiver.id, 'A lead')).toBe(true);
    expect(state().findings!.map((finding) => finding.key)).toEqual(before);
    expect(state().record!.waivers[0].withdrawn).toMatchObject({ by: 'A lead' });
  });
  it('stays over a step and an opening anew; what could not be kept is told', async () => {
    const [first] = state().findings!;
    await waivers.waive([first.key], words);
    await steps.applyRemedy('centre', {}, 'Centre');
    expect(state().waived.map((finding) => finding.finding.key)).toEqual([first.key]);
    open.closeDesk();
    await open.openDesk(otherCharacter);
    expect(state().waived.map((finding) => finding.finding.key)).toEqual([first.key]);
    house.hold = { match: /waivers$/, until: Promise.reject(new Error('gone')) };
    expect(await waivers.waive(['x'], words)).toBe(false);
    expect(state().error).toMatch(/does not answer/);
  });
});

describe('handing over', () => {
  const what = { items: null, format: 'glb' as const, by: 'A lead', note: '' };
  const stands = () => dockets.useDockets.getState();
  beforeEach(() => dockets.loadDockets(otherCharacter));
  it('seals the revision on the desk, and the new docket stands among those of the character', async () => {
    await dockets.handOver(what);
    expect(stands()).toMatchObject({
      of: otherCharacter,
      handing: null,
      error: null,
      sealed: house.dockets[0].id,
    });
    expect(stands().entries?.map((entry) => entry.by)).toEqual(['A lead']);
    const asked = house.asked.filter((a) => a.startsWith('POST') && a.includes('dockets'));
    expect(asked).toEqual([`POST /api/characters/${otherCharacter}/dockets`]);
  });
  it.each<['refused' | 'lost', RegExp]>([
    ['refused', /^The disk of the house is full\.$/],
    ['lost', /broke off before the docket was sealed; look whether it is there/],
  ])('what is %s is told, and nothing is taken for sealed', async (sealing, message) => {
    house.sealing = sealing;
    await dockets.handOver(what);
    expect(stands()).toMatchObject({ handing: null, sealed: null, error: expect.stringMatching(message) });
    expect(stands().entries).toEqual([]);
    house.sealing = 'done';
    await dockets.handOver(what);
    expect(stands()).toMatchObject({ error: null, entries: [{ by: 'A lead' }] });
  });
  it('cancelled, it looks once more what was sealed before; a second one meanwhile is not begun', async () => {
    house.hold = { match: /^POST .*dockets$/, until: new Promise(() => {}) };
    const handing = dockets.handOver(what);
    await dockets.handOver(what);
    expect(house.asked.filter((a) => /^POST .*dockets$/.test(a))).toHaveLength(1);
    // As it is when the word to stop comes too late.
    house.dockets = [{ ...(await sealedElsewhere()), by: 'A lead' }];
    stands().handing?.cancel.abort();
    await handing;
    expect(stands()).toMatchObject({ handing: null, sealed: null, entries: [{ by: 'A lead' }] });
    expect(stands().error).toMatch(/^Cancelled; what was sealed before that stands below/);
  });
  it('whoever has gone to another character meanwhile is not brought back', async () => {
    const other = house.addOther(2, tube(6));
    let letGo = () => {};
    house.hold = { match: /^POST .*dockets$/, until: new Promise((resolve) => (letGo = resolve)) };
    const handing = dockets.handOver(what);
    await open.openDesk(other);
    await dockets.loadDockets(other);
    letGo();
    await handing;
    expect(stands()).toMatchObject({ of: other, handing: null, sealed: null });
  });
  /** A docket as the server lists it. */
  async function sealedElsewhere() {
    const { hold } = house;
    house.hold = null;
    await house.answer(`/api/characters/${otherCharacter}/dockets`, {
      method: 'POST',
      body: JSON.stringify(what),
    });
    house.hold = hold;
    return house.dockets[0];
  }
});

describe('waivers from a file', () => {
  const words = { reason: 'as agreed', by: 'A lead' };
  const fileOf = (json: unknown) =>
    new File([typeof json === 'string' ? json : JSON.stringify(json)], 'w.json');
  it('set apart what they waive, and tell what of them was left', async () => {
    const [first, second] = state().findings!;
    const elsewhere = { ...words, keys: ['of/another/character'] };
    const past = { ...waiverFor([second], words), until: '2020-01-01' };
    const file = fileOf(waiverFile([waiverFor([first], words), elsewhere, past]));
    expect(await waivers.bringWaiversIn(file)).toBe(true);
    expect(state().waived.map((finding) => finding.finding.key)).toEqual([first.key]);
    expect(state().findings!.map((finding) => finding.key)).not.toContain(first.key);
    expect(state().said).toBe(
      'One waiver was taken in; 1 waives what this character does not have; 1 held until a day or a revision that has passed.',
    );
    expect(await waivers.bringWaiversIn(file)).toBe(true);
    expect(state().said).toMatch(/^No waivers were taken in; 1 stood here already; /);
    expect(house.waivers).toHaveLength(1);
  });
  it.each<[string, unknown, RegExp]>([
    ['no JSON', '{', /“w\.json” is no file of waivers: .*Nothing was taken in\.$/],
    ['another kind of file', { kind: 'young-bough-brief' }, /its “kind” does not say “young-bough-waivers”/],
    ['nothing', null, /its “kind” does not say/],
    ['a waiver without a reason', { ...waiverFile([]), waivers: [{ keys: ['a'], by: 'x' }] }, /reason/],
    ['an unknown field', { ...waiverFile([]), waivers: [{ ...words, keys: ['a'], when: 1 }] }, /when/],
  ])('%s is refused in a sentence, and the server is not asked', async (_, json, message) => {
    const before = house.asked.length;
    expect(await waivers.bringWaiversIn(fileOf(json))).toBe(false);
    expect(state().error).toMatch(message);
    expect(house.asked.length).toBe(before);
    expect(house.waivers).toEqual([]);
  });
});

describe('measuring', () => {
  const at = (nodeIndex: number, vertex: number) => ({
    kind: vertex < 0 ? ('joint' as const) : ('vertex' as const),
    node: nodeIndex,
    vertex,
    point: [0, 0, 0],
  });
  it('the first point is held, with the second the measure is pinned by names', async () => {
    measuring.toggleMeasuring();
    await measuring.takeMeasurePoint(at(1, -1));
    expect(measuring.useMeasuring.getState().from?.node).toBe(1);
    await measuring.takeMeasurePoint(at(4, 3));
    expect([state().tool, state().page, house.pins]).toEqual([
      'turn',
      'measures',
      [
        {
          id: idOf('r', 77),
          label: '',
          from: { kind: 'joint', node: 'upper' },
          to: { kind: 'vertex', node: 'crate', vertex: 3 },
        },
      ],
    ]);
  });
  it('the point that was taken is forgotten with the tool', async () => {
    measuring.toggleMeasuring();
    await measuring.takeMeasurePoint(at(1, -1));
    measuring.toggleMeasuring();
    expect([state().tool, measuring.useMeasuring.getState().from]).toEqual(['turn', null]);
  });
  it('where it cannot be kept the point that was taken is not lost', async () => {
    measuring.toggleMeasuring();
    await measuring.takeMeasurePoint(at(1, -1));
    globalThis.fetch = (() => Promise.reject(new TypeError('gone'))) as typeof fetch;
    await measuring.takeMeasurePoint(at(4, 3));
    expect([measuring.useMeasuring.getState().from?.node, state().error]).toEqual([
      1,
      expect.stringContaining('does not answer'),
    ]);
  });
});

describe('two revisions beside each other', () => {
  it('tell how far the farthest point lies from where it was, and what only one of them has', async () => {
    const target = crated();
    house.add(
      {
        ...target,
        nodes: [
          ...target.nodes.slice(0, 4),
          { ...target.nodes[4], translation: [0, 0.5, 0] },
          node({ name: 'label' }),
        ],
      },
      R1,
      'raised',
    );
    await open.refreshDesk();
    await comparing.compareRevisions(R1, R2);
    const { data } = state().compared!;
    expect([data!.most, data!.where, data!.points, data!.came, data!.lost]).toEqual([
      0.5,
      'crate',
      8,
      ['label'],
      [],
    ]);
    expect(data!.counts.map((count) => count.nodes)).toEqual([5, 6]);
    comparing.endComparison();
    expect(state().compared).toBeNull();
  });
});

it('the next finding of a room follows the last, and back', async () => {
  const mine = state()
    .findings!.filter((finding) => finding.room === 'placement')
    .map((finding) => finding.key);
  expect(mine.length).toBeGreaterThan(1);
  choose.stepFinding(1);
  const walked = [state().chosen];
  for (let k = 1; k < mine.length; k++) {
    choose.stepFinding(1);
    walked.push(state().chosen);
  }
  expect(walked).toEqual(mine);
  choose.stepFinding(1);
  expect(state().chosen).toBe(mine[0]);
  choose.stepFinding(-1);
  expect(state().chosen).toBe(mine[mine.length - 1]);
});

describe('late answers', () => {
  const other = () => ({ ...crated(), name: 'other' });
  it('an opening that comes late does not overwrite the character that was opened after it', async () => {
    const id = house.addOther(2, other());
    const slow = gate();
    open.closeDesk();
    house.hold = { match: new RegExp(`GET /api/characters/${otherCharacter}$`), until: slow.until };
    const first = open.openDesk(otherCharacter);
    house.hold = null;
    await open.openDesk(id);
    slow.open();
    await first;
    expect([state().record?.id, state().character?.name, state().busy]).toEqual([id, 'other', null]);
  });
  it('an opening whose arrays come late does not overwrite either', async () => {
    const id = house.addOther(2, other());
    const slow = gate();
    open.closeDesk();
    house.hold = { match: new RegExp(`GET /api/revisions/${R1}$`), until: slow.until };
    const first = open.openDesk(otherCharacter);
    await soon();
    await open.openDesk(id);
    slow.open();
    await first;
    expect([state().record?.id, state().character?.name]).toEqual([id, 'other']);
  });
  it('an opening that comes after the desk was closed does not revive it', async () => {
    const slow = gate();
    open.closeDesk();
    house.hold = { match: new RegExp(`GET /api/characters/${otherCharacter}$`), until: slow.until };
    const late = open.openDesk(otherCharacter);
    open.closeDesk();
    slow.open();
    await late;
    expect([state().record, state().character, state().busy, state().error]).toEqual([
      null,
      null,
      null,
      null,
    ]);
  });
  it('a step that ends after the desk went on to another character leaves that one alone', async () => {
    const id = house.addOther(2, other());
    const slow = gate();
    house.hold = { match: /POST .*steps\/remedy/, until: slow.until };
    const step = steps.applyRemedy('centre', {}, 'Centre');
    await open.openDesk(id);
    slow.open();
    expect(await step).toBe(false);
    expect([state().record?.id, state().said]).toEqual([id, null]);
  });
  it('the pose of a trial names its figure: it is let go with it', async () => {
    const { figure } = state();
    pointer.posing.set({ figure: figure!, pose: null });
    await steps.applyRemedy('centre', {}, 'Centre');
    expect(state().figure).not.toBe(figure);
    expect(pointer.posing.value).toBeNull();
  });
  it('the bones of a set are drawn as thick as it says, whether its colour is shown or not', () => {
    const { character } = state();
    const set = { name: 'cloth', bones: [3, 5], vertices: [], polygons: [] };
    store.setDesk({
      character: {
        ...character!,
        sets: [
          { ...set, twigSize: 0.5 },
          { ...set, name: 'plain' },
        ],
      },
    });
    const view = views.stageViewOf(state());
    expect([[...view.twigSizes], view.sets]).toEqual([
      [
        [3, 0.5],
        [5, 0.5],
      ],
      [],
    ]);
    expect(views.stageViewOf(state()).twigSizes).toBe(view.twigSizes);
    store.setDesk({ character });
  });
  it('a comparison keeps the stage whatever is pressed in other rooms, and one that was ended does not come back', async () => {
    await steps.applyRemedy('centre', {}, 'Centre');
    await comparing.compareRevisions(R1, R2);
    const shown = views.stageViewOf(state());
    expect(shown.figure).toBe(state().compared!.data!.figures[1]);
    choose.goToRoom('weights');
    choose.lookAtWeights();
    choose.chooseFinding(state().findings![0].key);
    choose.changeLook({ hidden: new Set([4]) });
    const after = views.stageViewOf(state());
    expect([after.figure, after.surface, after.values, after.marks, after.hidden.size]).toEqual([
      shown.figure,
      'difference',
      shown.values,
      null,
      0,
    ]);
    const late = comparing.compareRevisions(R2, R1);
    comparing.endComparison();
    await late;
    expect(state().compared).toBeNull();
    expect(views.stageViewOf(state()).figure).toBe(state().figure);
  });
});

describe('the view of the stage', () => {
  it('of the same state is the same picture: nothing is made anew', () => {
    choose.chooseFinding(state().findings![0].key);
    const [a, b] = [views.stageViewOf(state()), views.stageViewOf(state())];
    for (const key of Object.keys(a) as (keyof typeof a)[]) expect([key, a[key]]).toEqual([key, b[key]]);
    expect(a.marks).toBe(b.marks);
    expect(a.chosenBones).toBe(b.chosenBones);
  });
  it('lights what was chosen last: the finding, the bone, what a box gathered', () => {
    const bones = () => [...views.stageViewOf(state()).chosenBones];
    choose.chooseBone(1);
    expect(bones()).toEqual([1]);
    choose.choosePicked({ vertices: new Map(), polygons: new Map(), bones: new Set([0, 1]) });
    expect(bones()).toEqual([0, 1]);
    choose.choosePicked({
      vertices: new Map([[4, Uint32Array.of(2)]]),
      polygons: new Map(),
      bones: new Set(),
    });
    expect([...views.stageViewOf(state()).marks!.vertices.get(4)!]).toEqual([2]);
    choose.chooseBone(0);
    expect(bones()).toEqual([0]);
  });
});

describe('a step that is still at work when the page is opened', () => {
  it('is waited for, and what came of it is shown', async () => {
    open.closeDesk();
    house.working = true;
    const opening = open.openDesk(otherCharacter);
    while (!state().busy?.startsWith('A step is still')) await soon();
    house.add({ ...crated(), name: 'mended' }, R1, 'mended');
    house.working = false;
    await opening;
    expect([state().record?.head, state().character?.name, state().busy]).toEqual([R2, 'mended', null]);
  });
});

describe('how the figure stands', () => {
  it('takes the other side along as mirror image, or by the very same turn of its own axes, or not at all', async () => {
    const { character } = state();
    // Two bones whose rests differ by a turn about z, so that the three ways come to different things.
    const rotation = [0, 0, Math.SQRT1_2, Math.SQRT1_2] as const;
    const nodes = character!.nodes.map((node, i) => (i === 1 ? { ...node, rotation } : node));
    const turned = async (follows: Parameters<typeof stands.setTwinFollows>[0]) => {
      store.setDesk({ character: { ...character!, nodes }, twins: [1, 0, ...nodes.slice(2).map(() => -1)] });
      await stands.setTwinFollows(follows);
      stands.beginPose();
      stands.turnToDegrees(0, [0, 30, 0]);
      const { turns } = state().pose;
      stands.backToRest();
      return [0, 1].map((node) => turns.get(node)?.degrees.map((angle) => Math.round(angle)));
    };
    expect(await turned('same')).toEqual([
      [0, 30, 0],
      [0, 30, 0],
    ]);
    // The mirror image of a turn about the world's y is the opposite one, which there lies along another axis.
    const [own, other] = await turned('mirrored');
    expect(own).toEqual([0, 30, 0]);
    expect(other?.map(Math.abs).filter((angle) => angle > 0)).toEqual([30]);
    expect(other?.[1]).toBe(0);
    expect(await turned('stays')).toEqual([[0, 30, 0], undefined]);
    store.setDesk({ character });
  });
  const boneAt = (node: number) => pointer.posing.value?.pose?.bones?.find((bone) => bone.node === node);
  it('belongs to the desk: other bones and other rooms leave it, and every turn is taken back by itself', async () => {
    const rest = state().figure!.bones.find((bone) => bone.node === 1)!;
    choose.chooseBone(0);
    stands.beginPose();
    stands.turnToDegrees(0, [0, 0, 90]);
    choose.chooseBone(1);
    stands.beginPose();
    stands.turnToDegrees(1, [0, 0, -90]);
    await soon();
    choose.goToRoom('weights', 'none');
    expect([stands.degreesOf(state(), 0), stands.degreesOf(state(), 1)]).toEqual([
      [0, 0, 90],
      [0, 0, -90],
    ]);
    // A quarter turn of the root lays the next joint to the side of it.
    const height = rest.from[1];
    while (!boneAt(1)) await soon();
    expect(boneAt(1)!.from[0]).toBeCloseTo(-height, 6);
    stands.undoPose();
    expect([...state().pose.turns.keys()]).toEqual([0]);
    stands.undoPose();
    expect(state().pose.turns.size).toBe(0);
    while (pointer.posing.value?.pose) await soon();
    stands.redoPose();
    expect(stands.degreesOf(state(), 0)).toEqual([0, 0, 90]);
    stands.backToRest();
    expect([state().pose.turns.size, stands.canUndoPose()]).toEqual([0, true]);
  });
  it('a gesture that changes nothing is none: there is nothing of it to take back', () => {
    stands.beginPose();
    stands.beginPose();
    expect(stands.canUndoPose()).toBe(false);
    stands.turnToDegrees(1, [10, 0, 0]);
    stands.turnToDegrees(1, [20, 0, 0]);
    expect(state().poseLine.past.length).toBe(1);
    stands.undoPose();
    expect([state().pose.turns.size, stands.canUndoPose()]).toEqual([0, false]);
  });
  it('a room with a column of its own for the stage shows the figure at rest, and leaving it brings the pose back', async () => {
    stands.turnToDegrees(1, [0, 0, -90]);
    while (!boneAt(1)) await soon();
    store.setDesk({ wide: true });
    await stands.showPose();
    expect(pointer.posing.value?.pose).toBeNull();
    store.setDesk({ wide: false });
    await stands.showPose();
    expect(boneAt(1)).toBeDefined();
  });
  it('stays when a step is made, by the names of its bones', async () => {
    stands.turnToDegrees(1, [0, 0, -90]);
    house.add({ ...crated(), name: 'mended' }, R1, 'mended');
    await open.refreshDesk();
    expect([state().revision, stands.degreesOf(state(), 1), stands.canUndoPose()]).toEqual([
      R2,
      [0, 0, -90],
      false,
    ]);
    while (!boneAt(1)) await soon();
  });
  it('degrees are told about the axes that are asked for', () => {
    stands.setTurnAxes('own');
    stands.turnToDegrees(1, [10, 20, 30]);
    stands.setTurnAxes('world');
    const inWorld = stands.degreesOf(state(), 1);
    stands.turnToDegrees(1, inWorld);
    stands.setTurnAxes('own');
    stands.degreesOf(state(), 1).forEach((x, k) => expect(x).toBeCloseTo([10, 20, 30][k], 6));
  });
  it('what is taken up again by name is told where bones are missing', async () => {
    stands.strikePose({
      id: R1,
      name: 'wave',
      moment: null,
      turns: ['nobody', state().character!.nodes[1].name].map((name) => ({
        name,
        nth: 0,
        turn: [0, 0, 1, 0],
      })),
    });
    expect([state().pose.turns.size, state().said]).toEqual([
      1,
      '1 of the 2 bones of “wave” are not in this revision and stay as they are at rest.',
    ]);
  });
});

describe('what the hand does', () => {
  const moved = (x: number) => ({
    remedy: 'move-joint',
    params: { bone: 1, place: [x, 0.5, 0], alone: false },
  });
  it('is drawn, taken back and done again here, and kept as one step', async () => {
    drafts.beginGesture();
    await drafts.putPatch(moved(0.1));
    await drafts.putPatch(moved(0.2));
    drafts.beginGesture();
    await drafts.putPatch(moved(0.3));
    expect([state().draft?.steps, state().draft?.stands.get(1)?.place[0]]).toEqual([2, 0.3]);
    expect(pointer.posing.value?.pose?.bones?.find((bone) => bone.node === 1)?.from[0]).toBeCloseTo(0.3, 12);
    await drafts.undoDraft();
    expect(state().draft?.stands.get(1)?.place[0]).toBe(0.2);
    await drafts.redoDraft();
    expect(state().draft?.stands.get(1)?.place[0]).toBe(0.3);
    expect(await drafts.keepDraft()).toBe(true);
    expect(house.saved).toMatchObject([{ base: R1, patches: [moved(0.2), moved(0.3)] }]);
    expect([state().record?.head, state().draft]).toEqual([R2, null]);
    expect(restPlace(state().character!.nodes, 1)[0]).toBeCloseTo(0.3, 12);
  });
  it('is handed over by nobody before it is kept', async () => {
    drafts.beginGesture();
    await drafts.putPatch(moved(0.1));
    const asked = house.asked.length;
    await dockets.handOver({ items: null, format: 'glb', by: 'A lead', note: '' });
    expect(dockets.useDockets.getState()).toMatchObject({ error: open.NOT_KEPT, handing: null });
    expect(house.asked.slice(asked)).toEqual([]);
  });
  it('is not lost by a step beside it: that one waits until it is kept or taken back', async () => {
    await drafts.putPatch(moved(0.1));
    expect(await steps.applyRemedy('centre', {}, 'Centre')).toBe(false);
    expect([state().error, house.revisions.length]).toEqual([expect.stringContaining('not kept yet'), 1]);
    await drafts.dropDraft();
    expect([state().draft, pointer.posing.value?.pose]).toEqual([null, null]);
    expect(await steps.applyRemedy('centre', {}, 'Centre')).toBe(true);
  });
  it('is there again when the page was closed before it was kept, and not once it was kept or let go', async () => {
    const rested = () => new Promise((done) => setTimeout(done, 400));
    const reopened = async () => {
      open.closeDesk();
      await open.openDesk(otherCharacter);
      await drafts.restoreDraft(state().revision!);
    };
    await drafts.putPatch(moved(0.1));
    drafts.beginGesture();
    await drafts.putPatch(moved(0.3));
    await rested();
    await reopened();
    expect([state().draft?.steps, state().draft?.stands.get(1)?.place[0]]).toEqual([2, 0.3]);
    expect(pointer.posing.value?.pose?.bones?.find((bone) => bone.node === 1)?.from[0]).toBeCloseTo(0.3, 12);
    await drafts.undoDraft();
    await rested();
    await reopened();
    expect([state().draft?.steps, state().draft?.stands.get(1)?.place[0]]).toEqual([1, 0.1]);
    await drafts.dropDraft();
    await reopened();
    expect(state().draft).toBe(null);
    await drafts.putPatch(moved(0.2));
    await rested();
    expect(await drafts.keepDraft()).toBe(true);
    await steps.moveTo(R1, 'Undone');
    await drafts.restoreDraft(R1);
    expect(state().draft).toBe(null);
  });
  it('made by another version of the house is let go in silence, and in the way of nothing', async () => {
    await keptDrafts.keptDrafts.remember(R1, Uint8Array.of(1, 2, 3));
    await drafts.restoreDraft(R1);
    expect([state().draft, state().error]).toEqual([null, null]);
    expect(await keptDrafts.keptDrafts.recall(R1)).toBe(undefined);
  });
  it('keeps no more of them in the browser than it says', async () => {
    const clock = jest.spyOn(Date, 'now');
    for (let i = 0; i < 60; i++) {
      clock.mockReturnValue(1000 * i);
      await keptDrafts.keptDrafts.remember(idOf('r', 100 + i), Uint8Array.of(i));
    }
    clock.mockRestore();
    const left = [];
    for (let i = 0; i < 60; i++) if (await keptDrafts.keptDrafts.recall(idOf('r', 100 + i))) left.push(i);
    expect(left).toEqual(Array.from({ length: 40 }, (_, i) => 20 + i));
  });
  it('that cannot be done says why and changes nothing', async () => {
    await drafts.putPatch({
      remedy: 'place-part',
      params: { node: 2, place: [0, 0, 0], turn: [0, 0, 0, 1] },
    });
    expect([state().error, state().draft]).toEqual([expect.stringContaining('bound to bones'), null]);
  });
});

describe('strokes of the brush', () => {
  const brush = (bone: number, target = 1) => ({
    bone,
    radius: 0.5,
    strength: 0.5,
    target,
    hardness: 0,
    limit: 4,
  });
  /** A ray from afar to a place of the tube, seen from the front. */
  const rayTo = (x: number, y: number) => [x, y, 9, 0, 0, -1, 1];
  const boundNode = () => state().character!.nodes.findIndex(({ mesh, skin }) => mesh >= 0 && skin >= 0);
  const jointAt = (k: number) => {
    const { character } = state();
    return character!.skins[character!.nodes[boundNode()].skin].joints[k];
  };
  const middle = () => {
    const points = state().figure!.meshes.find((mesh) => mesh.node === boundNode())!.points;
    const [low, high] = [0, 1].map((k) => points.filter((_, i) => i % 3 === k)).map((list) => [...list]);
    const mean = (list: number[]) => (Math.min(...list) + Math.max(...list)) / 2;
    return [mean(low), mean(high)] as const;
  };

  it('are done one after the other, however fast the hand is, and taken back in place', async () => {
    const touched: number[] = [];
    const stop = pointer.touching.listen((now) => {
      for (const { ids } of now?.touched ?? []) touched.push(ids.length);
    });
    const [x, y] = middle();
    // Without a pause between them: the second begins before the first was handed over.
    for (const target of [1, 0]) {
      strokes.beginStroke(boundNode(), brush(jointAt(1), target), () => {});
      for (let i = 0; i < 5; i++) strokes.strokeTo(rayTo(x, y + i * 0.02));
      strokes.endStroke();
    }
    await strokeLine.strokesDone();
    expect([state().draft?.steps, state().draft?.title]).toEqual([2, 'weights by the brush']);
    expect(state().draft!.painted).toBeGreaterThan(0);
    expect(touched.length).toBeGreaterThan(1);
    await drafts.undoDraft();
    await drafts.undoDraft();
    expect([state().draft?.steps, state().draft?.painted, state().draft?.canRedo]).toEqual([0, 0, true]);
    await drafts.redoDraft();
    expect(await drafts.keepDraft()).toBe(true);
    stop();
    await steps.moveTo(R1, 'Undone');
  });

  it('that a change of pose meets half way are not lost', async () => {
    const [x, y] = middle();
    strokes.beginStroke(boundNode(), brush(jointAt(1)), () => {});
    strokes.strokeTo(rayTo(x, y));
    await strokeLine.strokesDone();
    stands.turnToDegrees(jointAt(1), [0, 0, 30]);
    await stands.showPose();
    strokes.endStroke();
    await strokeLine.strokesDone();
    expect(state().draft?.painted).toBeGreaterThan(0);
    stands.backToRest();
    await drafts.dropDraft();
  });

  it('with a bone that the mesh does not know say so, and change nothing', async () => {
    const stranger = state().character!.nodes.findIndex(
      (_, i) => !state().character!.skins.some(({ joints }) => joints.includes(i)),
    );
    strokes.beginStroke(boundNode(), brush(stranger), () => {});
    strokes.strokeTo(rayTo(...middle()));
    strokes.endStroke();
    await strokeLine.strokesDone();
    expect([state().error, state().draft]).toEqual([expect.stringContaining('is not bound to'), null]);
  });
});

describe('the crosswalk', () => {
  it('keeps the rules that were made by hand when one leaves the room and comes back', async () => {
    await walk.openCrosswalk();
    const before = walk.useCrosswalkSession.getState().crosswalk!;
    walkChanges.changeRule(0, 'release', -1);
    const changed = walk.useCrosswalkSession.getState().crosswalk;
    expect(changed![0].kind).toBe('release');
    expect(changed).not.toEqual(before);
    choose.goToRoom('placement');
    choose.goToRoom('crosswalk');
    await walk.openCrosswalk();
    expect(walk.useCrosswalkSession.getState().crosswalk).toBe(changed);
  });
  it('that could not be made is made when it is asked for again, and what failed is told', async () => {
    await walk.openCrosswalk();
    const target = walk.useCrosswalkSession.getState().target!;
    const answering = globalThis.fetch;
    globalThis.fetch = ((url: string, init?: RequestInit) =>
      url.startsWith('/api/crosswalks')
        ? Promise.reject(new TypeError('gone'))
        : answering(url, init)) as typeof fetch;
    await walk.chooseTarget(target);
    expect(walk.useCrosswalkSession.getState().error).toMatch(/does not answer/);
    globalThis.fetch = answering;
    await walk.chooseTarget(target);
    expect([
      walk.useCrosswalkSession.getState().error,
      walk.useCrosswalkSession.getState().crosswalk?.length,
    ]).toEqual([null, 2]);
  });
  const tried = async () => {
    for (let i = 0; i < 400 && walk.useCrosswalkSession.getState().isTrying; i++) await soon();
    expect(walk.useCrosswalkSession.getState().trial).not.toBe(null);
  };
  const kinds = () => walk.useCrosswalkSession.getState().crosswalk!.map((rule) => rule.kind);
  const begin = async () => {
    walk.useCrosswalkSession.setState({ of: null });
    await walk.openCrosswalk();
    await walkChanges.suggestAgain(true);
    walk.useCrosswalkSession.setState({ past: [], future: [] });
  };
  it('lets go of the way back, and keeps what is chosen in hand, when another skeleton is chosen', async () => {
    const stop = walkChanges.tellWayBack();
    await begin();
    choices.choosePair(1);
    walkChanges.changeRule(1, 'keep', -1);
    expect(state().ownWay?.canUndo).toBe(true);
    await walk.chooseTarget(walk.useCrosswalkSession.getState().targets[1]);
    expect(state().ownWay?.canUndo).toBe(false);
    // What the panel shows is what its buttons change.
    walkChanges.toggleLocks();
    expect(walk.useCrosswalkSession.getState().crosswalk![1].locked).toBe(true);
    stop();
    expect(state().ownWay).toBe(null);
  });
  it('that nobody has touched is no draft; what the proof showed of a pair is not said of another', async () => {
    await begin();
    await tried();
    await soon();
    open.closeDesk();
    walk.useCrosswalkSession.setState({ of: null });
    await open.openDesk(otherCharacter);
    await walk.openCrosswalk();
    expect(walk.useCrosswalkSession.getState().origin).toBe('suggested');
    await tried();
    walk.useCrosswalkSession.setState({ shown: [0, 1].map((i) => ({ node: i, max: 0.5, pose: 1 })) });
    walkChanges.changeRule(1, 'release', -1);
    expect(walk.useCrosswalkSession.getState().shown.map((proof) => proof?.max ?? null)).toEqual([0.5, null]);
  });
  it('takes back and does again what was changed in it, before any step of the house', async () => {
    const stop = walkChanges.tellWayBack();
    await begin();
    const first = kinds();
    walkChanges.changeRule(0, 'release', -1);
    walkChanges.changeRule(1, 'keep', -1);
    const last = kinds();
    expect(last).toEqual(['release', 'keep']);
    expect(state().ownWay).toEqual({ canUndo: true, canRedo: false });
    walkChanges.undoChange();
    walkChanges.undoChange();
    expect([kinds(), state().ownWay]).toEqual([first, { canUndo: false, canRedo: true }]);
    walkChanges.redoChange();
    walkChanges.redoChange();
    expect(kinds()).toEqual(last);
    walkChanges.undoChange();
    walkChanges.changeRule(1, 'release', -1);
    expect(state().ownWay?.canRedo).toBe(false);
    stop();
  });
  it('is there again when the page was closed, until it is begun anew', async () => {
    await begin();
    walkChanges.changeRule(0, 'release', -1);
    await soon();
    open.closeDesk();
    walk.useCrosswalkSession.setState({ of: null });
    await open.openDesk(otherCharacter);
    await walk.openCrosswalk();
    const { crosswalk, origin, saved } = walk.useCrosswalkSession.getState();
    expect([crosswalk![0].kind, crosswalk![0].locked, origin, saved]).toEqual([
      'release',
      true,
      'draft',
      null,
    ]);
    await walkChanges.suggestAgain(true);
    expect(walk.useCrosswalkSession.getState().crosswalk!.some((rule) => rule.locked)).toBe(false);
  });
  it('that was saved is no draft any more, and one that was taken back to what is saved neither', async () => {
    await begin();
    walkChanges.changeRule(0, 'release', -1);
    const answering = globalThis.fetch;
    globalThis.fetch = ((url: string, init?: RequestInit) =>
      url === '/api/crosswalks' && init?.method === 'PUT'
        ? Promise.resolve(Response.json({ saved: true }))
        : answering(url, init)) as typeof fetch;
    await walkChanges.saveWalk();
    const { saved, crosswalk, origin } = walk.useCrosswalkSession.getState();
    expect([saved === crosswalk, origin]).toEqual([true, 'saved']);
    walkChanges.changeRule(1, 'keep', -1);
    walkChanges.undoChange();
    expect(walk.useCrosswalkSession.getState().crosswalk).toBe(saved);
    await soon();
    open.closeDesk();
    walk.useCrosswalkSession.setState({ of: null });
    await open.openDesk(otherCharacter);
    await walk.openCrosswalk();
    expect(walk.useCrosswalkSession.getState().origin).toBe('suggested');
  });
  it('changes several pairs together, as one change', async () => {
    await begin();
    walk.useCrosswalkSession.setState({ picked: new Set([0, 1]) });
    walkChanges.changePicked('keep', -1);
    expect([kinds(), walk.useCrosswalkSession.getState().past.length]).toEqual([['keep', 'keep'], 1]);
    walkChanges.toggleLocks();
    expect(walk.useCrosswalkSession.getState().crosswalk!.map((rule) => rule.locked)).toEqual([false, false]);
  });
  it('makes a pair of the two bones that were pointed at, in either order, and none of two on one figure', async () => {
    await begin();
    const { source, skeleton } = walk.useCrosswalkSession.getState();
    const [a, b] = source!.bones;
    choices.pointAtSource(a.node);
    choices.pointAtSource(b.node);
    expect(walk.useCrosswalkSession.getState().past).toHaveLength(0);
    choices.pointAtTarget({ name: skeleton!.bones[7].name, nth: 0 });
    choices.pointAtTarget({ name: skeleton!.bones[3].name, nth: 0 });
    choices.pointAtSource(a.node);
    const rules = walk.useCrosswalkSession.getState().crosswalk!;
    expect([rules[1].target, rules[0].target, rules[0].locked]).toEqual([7, 3, true]);
    expect(walk.useCrosswalkSession.getState().held).toBe(null);
  });
  it('shows both figures in a pose of its proof, and puts them back', async () => {
    choose.goToRoom('crosswalk');
    await begin();
    await tried();
    await poses.showPose(1);
    const { pose, both, trial } = walk.useCrosswalkSession.getState();
    expect([pose, pointer.posing.value?.pose?.meshes.length]).toEqual([1, 2]);
    const moved = (list: ArrayLike<number>, of: ArrayLike<number>) =>
      Array.from(list).some((x, i) => Math.abs(x - of[i]) > 1e-3);
    expect(moved(both!.after.meshes[0].points, trial!.figure!.meshes[0].points)).toBe(true);
    await poses.showPose(1);
    expect([walk.useCrosswalkSession.getState().pose, pointer.posing.value?.pose]).toEqual([-1, null]);
  });
  it('offers no character without bones as something to move onto', async () => {
    const rigged = house.addOther(5, crated());
    const still = crated();
    const bare = house.addOther(6, {
      ...still,
      nodes: still.nodes.map((node) => (node.kind === 'bone' ? { ...node, kind: 'empty' as const } : node)),
    });
    walk.useCrosswalkSession.setState({ of: null });
    await walk.openCrosswalk();
    const keys = walk.useCrosswalkSession.getState().targets.map((target) => target.key);
    expect(keys).toContain(house.others.get(rigged)!.id);
    expect(keys).not.toContain(house.others.get(bare)!.id);
  });
});
