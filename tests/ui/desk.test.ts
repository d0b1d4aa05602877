/** What stands on the desk, and what becomes of it when steps, undoing and other people's steps meet. The page's worker runs in this thread. */
import { pack } from '@/core/character/bundle';
import { type Character, node } from '@/core/character/model';
import { toStored } from '@/core/character/stored';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import type * as Store from '@/ui/desk/store';
import { meshFrom, tube } from '../core/support/build';
import { box } from '../core/support/figure';

const mockWorker: { desk: unknown } = { desk: null };
jest.mock('comlink', () => ({
  expose: (desk: unknown) => {
    mockWorker.desk = desk;
  },
  transfer: (x: unknown) => x,
  wrap: () => mockWorker.desk,
}));

/** A server of one character in memory: its revisions, where its head is, and how its answers can be held back. */
class House {
  readonly revisions: {
    id: string;
    number: number;
    parent: string | null;
    character: Character;
    label: string;
  }[] = [];
  head = '';
  brief = 'handset';
  pins: unknown[] = [];
  readonly asked: string[] = [];
  /** Requests that match wait until this is settled. */
  hold: { match: RegExp; until: Promise<void> } | null = null;
  audits = new Set(['handset']);

  add(character: Character, parent: string | null, label: string): string {
    const id = `r${this.revisions.length + 1}`;
    this.revisions.push({ id, number: this.revisions.length + 1, parent, character, label });
    this.head = id;
    return id;
  }
  private sheet() {
    return {
      id: 'c',
      name: 'Crate',
      brief: this.brief,
      head: this.head,
      pins: this.pins,
      revisions: this.revisions.map(({ character: _character, ...r }) => ({
        ...r,
        step: { kind: 'import', files: [], notes: [] },
        picture: null,
        createdAt: '2026-11-25',
        counts: null,
        note: '',
        effects: {},
      })),
    };
  }
  private find(id: string) {
    return this.revisions.find((r) => r.id === id)!;
  }

  async answer(url: string, init: RequestInit = {}): Promise<Response> {
    const method = init.method ?? 'GET';
    const path = new URL(url, 'http://x').pathname;
    const body = init.body ? JSON.parse(String(init.body)) : {};
    this.asked.push(`${method} ${url}`);
    if (this.hold && this.hold.match.test(`${method} ${url}`)) {
      await Promise.race([
        this.hold.until,
        new Promise((_, no) =>
          init.signal?.addEventListener('abort', () => no(new DOMException('aborted', 'AbortError'))),
        ),
      ]);
    }
    const audited = /^\/api\/revisions\/(\w+)\/audit$/.exec(path);
    if (audited) {
      const brief = new URL(url, 'http://x').searchParams.get('brief')!;
      if (method === 'POST') {
        this.audits.add(brief);
        return new Response(`${JSON.stringify({ stage: 'done', share: 1 })}\n`);
      }
      return this.audits.has(brief)
        ? new Response(pack(audit(this.find(audited[1]).character, briefById(brief)!)) as ArrayBuffer)
        : new Response(null, { status: 204 });
    }
    const revision = /^\/api\/revisions\/(\w+)$/.exec(path);
    if (revision) return Response.json(toStored(this.find(revision[1]).character).stored);
    if (path === '/api/arrays') {
      const all = new Map(this.revisions.flatMap((r) => [...toStored(r.character).bytes]));
      return new Response(
        pack(Object.fromEntries((body.hashes as string[]).map((h) => [h, all.get(h)!]))) as ArrayBuffer,
      );
    }
    if (path === '/api/characters/c/head') {
      this.head = body.to;
      return Response.json(this.sheet());
    }
    if (path === '/api/characters/c/pins') {
      this.pins = [...this.pins, { id: 'p', label: '', ...body }];
      return Response.json(this.sheet());
    }
    if (path === '/api/characters/c/steps') {
      if (body.base !== this.head)
        return Response.json(
          {
            message:
              'This step was made on revision 1, and revision 2 has come since; look at that one and do the step again. Nothing was lost.',
          },
          { status: 409 },
        );
      this.add({ ...this.find(this.head).character, name: body.remedy }, this.head, body.remedy);
      return Response.json(
        { revision: { number: this.revisions.length }, effects: { nodes: ['crate'] } },
        { status: 201 },
      );
    }
    if (path === '/api/characters/c') {
      if (method === 'PATCH') this.brief = body.brief ?? this.brief;
      return Response.json(this.sheet());
    }
    return Response.json({ message: 'There is no such thing.' }, { status: 404 });
  }
}

/** The tube with a crate that hangs under a holder, beside it. */
const crated = (holder = 'holder'): Character => {
  const t = tube();
  const b = box([0, 0, 0], [0.2, 0.2, 0.2]);
  return {
    ...t,
    meshes: [...t.meshes, { ...meshFrom(b.points, b.polygons), name: 'crate' }],
    nodes: [...t.nodes, node({ name: holder }), node({ name: 'crate', kind: 'mesh', mesh: 1, parent: 3 })],
    carried: { ...t.carried, scenes: [{ json: {}, roots: [0, 2, 3] }] },
  };
};

let store: typeof Store;
let house: House;
const state = () => store.useDesk.getState();
const given = { fetch: globalThis.fetch, Worker: globalThis.Worker };

beforeAll(async () => {
  globalThis.Worker = class {
    terminate() {
      /* there is none */
    }
  } as never;
  Object.assign(globalThis, {
    window: {
      location: { href: 'http://x/c' },
      history: {
        replaceState() {
          /* no address bar */
        },
      },
    },
  });
  await import('@/ui/worker/desk.worker');
  store = await import('@/ui/desk/store');
});
afterAll(() => {
  globalThis.fetch = given.fetch;
  globalThis.Worker = given.Worker;
});
beforeEach(async () => {
  store.closeDesk();
  house = new House();
  house.add(crated(), null, 'as delivered');
  globalThis.fetch = ((url: string, init?: RequestInit) => house.answer(url, init)) as typeof fetch;
  await store.openDesk('c');
});

it('opens the head with its figure and what was found', () => {
  expect([
    state().sheet?.head,
    state().figure?.meshes.map((m) => m.name),
    state().busy,
    state().error,
  ]).toEqual(['r1', ['tube', 'crate'], null, null]);
  expect(state().findings!.length).toBeGreaterThan(0);
  expect(state().character).toEqual(crated());
});

it('a character that is gone says so, and the desk is not left waiting', async () => {
  await store.openDesk('nobody');
  expect([state().error, state().busy]).toEqual(['There is no such thing.', null]);
});

describe('steps', () => {
  it('are told with what they touched, and the new revision is shown', async () => {
    expect(await store.applyRemedy('centre', {}, 'Centre')).toBe(true);
    expect([state().sheet?.head, state().said, state().character?.name]).toEqual([
      'r2',
      'Revision 2: centre. Touched 1 node (crate).',
      'centre',
    ]);
  });
  it('on a revision that has been overtaken are refused with the sentence, and the newer one is shown', async () => {
    house.add({ ...crated(), name: 'theirs' }, 'r1', 'by somebody else');
    expect(await store.applyRemedy('centre', {}, 'Centre')).toBe(false);
    expect([state().error, state().sheet?.head, state().character?.name]).toEqual([
      expect.stringMatching(/revision 2 has come since/),
      'r2',
      'theirs',
    ]);
  });
  it('two at once: the second waits for nothing and is not begun', async () => {
    const first = store.applyRemedy('centre', {}, 'Centre');
    expect(await store.applyRemedy('rescale', {}, 'Rescale')).toBe(false);
    expect(await first).toBe(true);
    expect(house.revisions.map((r) => r.label)).toEqual(['as delivered', 'centre']);
  });
  it('undo goes to the parent, redo to the newest that was made on it', async () => {
    await store.applyRemedy('one', {}, 'One');
    await store.moveTo(store.undoTarget(state().sheet), 'Undone');
    expect([state().sheet?.head, state().said]).toEqual([
      'r1',
      'Undone: back at revision 1, “as delivered”.',
    ]);
    await store.applyRemedy('two', {}, 'Two');
    await store.moveTo(store.undoTarget(state().sheet), 'Undone');
    // Two branches leave the first revision now.
    expect(store.redoTarget(state().sheet)).toBe('r3');
    expect(store.undoTarget(state().sheet)).toBeNull();
    expect(await store.moveTo(store.undoTarget(state().sheet), 'Undone')).toBe(false);
  });
});

describe('another brief', () => {
  it('is audited where it has not been, and that is told', async () => {
    const stages: (string | undefined)[] = [];
    const off = store.useDesk.subscribe((s) => stages.push(s.auditing?.stage));
    await store.setBrief('headset');
    off();
    expect([state().brief.id, state().said, stages.filter(Boolean)[0], state().auditing]).toEqual([
      'headset',
      'The brief is now “Night Ferry, headset hands”.',
      'auditing',
      null,
    ]);
    const asked = house.asked.length;
    await store.setBrief('headset');
    expect(house.asked.length).toBe(asked);
  });
  it('broken off stays what it was, with its findings', async () => {
    const before = state().findings!.map((f) => f.key);
    house.hold = {
      match: /^POST .*audit\?brief=headset/,
      until: new Promise(() => {
        /* never */
      }),
    };
    const asking = store.setBrief('headset');
    while (!state().auditing) await new Promise((r) => setTimeout(r, 5));
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
    expect(state().findings!.map((f) => f.key)).toEqual(before);
  });
});

it('the picture of weights is of some bone: of the one that carries most, until another is chosen', () => {
  store.lookAtWeights();
  // Both bones of the tube carry the same; the first of them it is.
  expect([state().surface, state().character!.nodes[state().bone].name]).toEqual(['weights', 'lower']);
  store.chooseBone(1);
  store.setLook({ surface: 'clay' });
  store.lookAtWeights();
  expect(state().bone).toBe(1);
});

describe('what is set on nodes', () => {
  const kept = new Map<string, string>();
  beforeEach(() => {
    kept.clear();
    globalThis.localStorage = {
      getItem: (k: string) => kept.get(k) ?? null,
      setItem: (k: string, v: string) => {
        kept.set(k, v);
      },
      removeItem: (k: string) => {
        kept.delete(k);
      },
    } as never;
  });
  afterEach(() => {
    delete (globalThis as { localStorage?: unknown }).localStorage;
  });
  const opened = async () => {
    store.closeDesk();
    await store.openDesk('c');
    return [[...state().hidden], [...state().locked], [...state().tints]];
  };

  it('is there again when the page is opened again, also on a revision that counts otherwise, and goes when it is taken off', async () => {
    store.setLook({ hidden: new Set([4]), locked: new Set([2]), tints: new Map([[3, '#7fa08c']]) });
    expect(await opened()).toEqual([[4], [2], [[3, '#7fa08c']]]);
    const t = crated();
    house.add(
      {
        ...t,
        nodes: [
          node({ name: 'holder', kind: 'light' }),
          ...t.nodes.map((n) => ({ ...n, parent: n.parent < 0 ? -1 : n.parent + 1 })),
        ],
        skins: t.skins.map((s) => ({ ...s, joints: s.joints.map((j) => j + 1), skeleton: -1 })),
      },
      'r1',
      'a namesake before it',
    );
    // The tint was on the first “holder”, and the first is another node now: the name and its place among namesakes are what is kept.
    expect(await opened()).toEqual([[5], [3], [[0, '#7fa08c']]]);
    store.setLook({ hidden: new Set(), locked: new Set(), tints: new Map() });
    expect([kept.size, await opened()]).toEqual([0, [[], [], []]]);
  });
  it('that cannot be read is as if it were not there, and a window that keeps nothing still shows it', async () => {
    for (const text of [
      '{',
      '{}',
      '{"hidden":[null],"locked":[],"tints":[]}',
      '{"hidden":[{"name":"gone","nth":0}],"locked":[],"tints":[]}',
    ]) {
      kept.set('look c', text);
      expect(await opened()).toEqual([[], [], []]);
    }
    Object.assign(globalThis.localStorage, {
      setItem() {
        throw new Error('quota');
      },
    });
    store.setLook({ hidden: new Set([4]) });
    expect([...state().hidden]).toEqual([4]);
  });
  it('follows their names to the next revision, where they count otherwise', async () => {
    store.setLook({ hidden: new Set([4]), locked: new Set([2]), tints: new Map([[4, '#7fa08c']]) });
    const t = crated();
    const moved: Character = {
      ...t,
      nodes: [
        t.nodes[0],
        t.nodes[1],
        node({ name: 'new one' }),
        t.nodes[2],
        { ...t.nodes[3] },
        { ...t.nodes[4], parent: 4 },
      ],
    };
    house.add(moved, 'r1', 'with one more');
    await store.refresh();
    expect([[...state().hidden], [...state().locked], [...state().tints]]).toEqual([
      [5],
      [3],
      [[5, '#7fa08c']],
    ]);
  });
  it('isolating a holder takes what hangs under it, a bone alone stays alone', () => {
    store.useDesk.setState({
      findings: [
        { ...state().findings![0], key: 'k', elements: [{ kind: 'node', node: 3, ids: Uint32Array.of(3) }] },
      ],
      chosen: 'k',
    });
    store.isolateChosen();
    expect([...state().isolated!].sort()).toEqual([3, 4]);
    store.isolateChosen();
    expect(state().isolated).toBeNull();
    store.useDesk.setState({
      findings: [
        { ...state().findings![0], key: 'k', elements: [{ kind: 'bone', node: -1, ids: Uint32Array.of(1) }] },
      ],
    });
    store.isolateChosen();
    expect([...state().isolated!]).toEqual([1]);
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
    store.toggleMeasuring();
    await store.takePoint(at(1, -1));
    expect(state().measuring?.from?.node).toBe(1);
    await store.takePoint(at(4, 3));
    expect([state().measuring, state().page, house.pins]).toEqual([
      null,
      'measures',
      [
        {
          id: 'p',
          label: '',
          from: { kind: 'joint', node: 'upper' },
          to: { kind: 'vertex', node: 'crate', vertex: 3 },
        },
      ],
    ]);
  });
  it('where it cannot be kept the point that was taken is not lost', async () => {
    store.toggleMeasuring();
    await store.takePoint(at(1, -1));
    globalThis.fetch = (() => Promise.reject(new TypeError('gone'))) as typeof fetch;
    await store.takePoint(at(4, 3));
    expect([state().measuring?.from?.node, state().error]).toEqual([
      1,
      expect.stringContaining('does not answer'),
    ]);
  });
});

describe('two revisions beside each other', () => {
  it('tell how far the farthest point lies from where it was, and what only one of them has', async () => {
    const t = crated();
    house.add(
      {
        ...t,
        nodes: [...t.nodes.slice(0, 4), { ...t.nodes[4], translation: [0, 0.5, 0] }, node({ name: 'label' })],
      },
      'r1',
      'raised',
    );
    await store.refresh();
    await store.compare('r1', 'r2');
    const { data } = state().compared!;
    expect([data!.most, data!.where, data!.points, data!.came, data!.lost]).toEqual([
      0.5,
      'crate',
      8,
      ['label'],
      [],
    ]);
    expect(data!.counts.map((c) => c.nodes)).toEqual([5, 6]);
    store.showHead();
    expect(state().compared).toBeNull();
  });
});

it('the next finding of a room follows the last, and back', async () => {
  const mine = state()
    .findings!.filter((f) => f.room === 'placement')
    .map((f) => f.key);
  expect(mine.length).toBeGreaterThan(1);
  store.stepFinding(1);
  const walked = [state().chosen];
  for (let k = 1; k < mine.length; k++) {
    store.stepFinding(1);
    walked.push(state().chosen);
  }
  expect(walked).toEqual(mine);
  store.stepFinding(1);
  expect(state().chosen).toBe(mine[0]);
  store.stepFinding(-1);
  expect(state().chosen).toBe(mine[mine.length - 1]);
});
