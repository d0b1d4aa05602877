/** What the page makes of the server's answers, good and broken. */
import { briefById } from '@/core/house/briefs';
import type * as Cache from 'lru-cache';
import { pack } from '@/core/character/bundle';
import { toStored } from '@/core/character/stored';
import { keepPose } from '@/routes/poses';
import { ApiError, call, fetchCharacter, fetchFindings, sendFiles, surveyFiles } from '@/ui/kit/api';
import { type ProgressLine, surveyPath } from '@/routes/arrivals';
import { moveHead, readCharacter } from '@/routes/characters';
import { tube } from '../core/support/build';

type Answer = (url: string, init: RequestInit) => Response | Promise<Response>;
const given = globalThis.fetch;
let asked: { url: string; method: string; body: unknown }[] = [];
const answering = (answer: Answer) => {
  asked = [];
  globalThis.fetch = (async (url: string, init: RequestInit = {}) => {
    asked.push({ url, method: init.method ?? 'GET', body: init.body });
    if (init.signal?.aborted) throw new DOMException('aborted', 'AbortError');
    return answer(url, init);
  }) as typeof fetch;
};
afterAll(() => {
  globalThis.fetch = given;
});

const lines = (...list: object[]) => list.map((l) => `${JSON.stringify(l)}\n`).join('');
/** An answer that comes in pieces of so many bytes, as a network cuts them. */
function inPieces(text: string, size: number): Response {
  const bytes = new TextEncoder().encode(text);
  return new Response(
    new ReadableStream({
      start(controller) {
        for (let i = 0; i < bytes.length; i += size) controller.enqueue(bytes.slice(i, i + size));
        controller.close();
      },
    }),
  );
}
const file = (name: string) => new File(['x'], name);
const never = new AbortController().signal;

const ID = 'c0ffee00-0000-4000-8000-000000000001';
const record = {
  wants: briefById('handset'),
  id: ID,
  name: 'Crate',
  brief: 'handset',
  head: ID,
  revisions: [],
  pins: [],
  poses: [],
  waivers: [],
};

describe('a request', () => {
  it('puts what the path names into the path and the rest into the body, and gives what comes as the route says', async () => {
    answering(() => Response.json(record));
    expect(await call(moveHead, { id: ID, base: ID, to: ID })).toEqual({ ...record, working: false });
    const body = JSON.stringify({ base: ID, to: ID });
    expect(asked[0]).toEqual({ url: `/api/characters/${ID}/head`, method: 'POST', body });
  });
  it('outlives its page where it is small enough for a browser to keep it', async () => {
    const kept: (boolean | undefined)[] = [];
    answering((_url, init) => {
      kept.push(init?.keepalive);
      return Response.json({ message: 'Heard.' }, { status: 409 });
    });
    const ask = (name: string) => call(keepPose, { id: ID, name, turns: [], moment: null }).catch(() => null);
    await ask('reach');
    await ask('r'.repeat(70_000));
    expect(kept).toEqual([true, false]);
  });
  it('does not take an answer that is not what the route says', async () => {
    answering(() => Response.json({ ...record, revisions: 'none' }));
    await expect(call(readCharacter, { id: ID })).rejects.toThrow(/revisions/);
  });
  it('gives the server’s sentence with its status, and what came with it', async () => {
    answering(() => Response.json({ message: 'The head has moved.', head: 3 }, { status: 409 }));
    await expect(call(readCharacter, { id: ID })).rejects.toMatchObject({
      message: 'The head has moved.',
      status: 409,
      body: { head: 3 },
    });
  });
  it('has a sentence of its own where the server has none, or is not there', async () => {
    answering(() => new Response('<html>', { status: 502 }));
    const asking = () => call(readCharacter, { id: ID });
    await expect(asking()).rejects.toThrow('The server answered with 502; try again.');
    answering(() => {
      throw new TypeError('fetch failed');
    });
    await expect(asking()).rejects.toThrow(/does not answer; check that it runs.*Nothing was lost\.$/);
    await expect(asking()).rejects.toBeInstanceOf(ApiError);
  });
  it('broken off by a person stays what it is', async () => {
    const off = new AbortController();
    off.abort();
    answering(() => Response.json({}));
    await expect(call(readCharacter, { id: ID }, off.signal)).rejects.toMatchObject({ name: 'AbortError' });
  });
});

describe('sending files', () => {
  const all = lines(
    { stage: 'received', share: 0.1 },
    { stage: 'überall 骨 🦴', share: 0.5 },
    { stage: 'done', share: 1, id: 'i' },
  );
  it.each([1, 3, 7, 1000])('tells every line, in whatever pieces of %d bytes they come', async (size) => {
    answering(() => inPieces(all, size));
    const seen: ProgressLine[] = [];
    expect(
      await sendFiles(
        '/up',
        [file('a.glb'), file('b.bin')],
        { unit: '0.01', up: '' },
        (l) => seen.push(l),
        never,
      ),
    ).toMatchObject({ stage: 'done', id: 'i' });
    expect(seen.map((l) => l.stage)).toEqual(['received', 'überall 骨 🦴', 'done']);
    const form = asked[0].body as FormData;
    expect([form.getAll('files').length, form.get('unit'), form.has('up')]).toEqual([2, '0.01', false]);
  });
  it('a refusal is thrown with its sentence', async () => {
    answering(() =>
      inPieces(
        lines(
          { stage: 'received', share: 0.1 },
          { stage: 'refused', share: 1, message: 'a.glb: it is empty. Export it again.' },
        ),
        50,
      ),
    );
    await expect(sendFiles('/up', [file('a.glb')], {}, () => {}, never)).rejects.toThrow(
      'a.glb: it is empty. Export it again.',
    );
  });
  it('an answer that ends before its end is no success', async () => {
    answering(() => inPieces(lines({ stage: 'received', share: 0.1 }), 50));
    await expect(sendFiles('/up', [file('a.glb')], {}, () => {}, never)).rejects.toThrow(
      /broke off while the files were taken in; look whether they are there, and drop them again if not\.$/,
    );
    answering(() => inPieces(all.slice(0, -10), 50));
    await expect(sendFiles('/up', [file('a.glb')], {}, () => {}, never)).rejects.toThrow(/broke off/);
  });
  it('what the server will not even begin is thrown with its sentence', async () => {
    answering(() =>
      Response.json({ message: 'The files are larger than 5 bytes together.' }, { status: 413 }),
    );
    await expect(sendFiles('/up', [file('a.glb')], {}, () => {}, never)).rejects.toMatchObject({
      status: 413,
      message: 'The files are larger than 5 bytes together.',
    });
  });
});

describe('findings', () => {
  const bundle = () => new Response(pack([{ check: 'height' }]) as ArrayBuffer);
  it('that are known come at once', async () => {
    answering(bundle);
    expect(
      await fetchFindings(
        'r',
        'handset',
        () => {
          throw new Error('nothing is to be told');
        },
        never,
      ),
    ).toEqual([{ check: 'height' }]);
    expect(asked.map((a) => [a.method, a.url])).toEqual([['GET', '/api/revisions/r/audit?brief=handset']]);
  });
  it('that are not known are made first, and that is told', async () => {
    let made = false;
    answering((_url, { method }) => {
      if (method === 'POST') {
        made = true;
        return inPieces(lines({ stage: 'auditing: height', share: 0.4 }, { stage: 'done', share: 1 }), 20);
      }
      return made ? bundle() : new Response(null, { status: 204 });
    });
    const seen: string[] = [];
    expect(await fetchFindings('r', 'handset', (l) => seen.push(l.stage), never)).toEqual([
      { check: 'height' },
    ]);
    expect(asked.map((a) => a.method)).toEqual(['GET', 'POST', 'GET']);
    expect(seen).toEqual(['auditing', 'auditing: height', 'done']);
  });
  it('that could not be made say why', async () => {
    answering((_url, { method }) =>
      method === 'POST'
        ? inPieces(lines({ stage: 'refused', share: 1, message: 'The audit could not be done.' }), 99)
        : new Response(null, { status: 204 }),
    );
    await expect(fetchFindings('r', 'handset', () => {}, never)).rejects.toThrow(
      'The audit could not be done.',
    );
  });
});

describe('a character', () => {
  const { stored, bytes } = toStored(tube());
  const server: Answer = (url, init) => {
    if (url.startsWith('/api/revisions/')) return Response.json(stored);
    const { hashes } = JSON.parse(String(init.body)) as { hashes: string[] };
    const body = pack(Object.fromEntries(hashes.map((hash) => [hash, bytes.get(hash)!])));
    return new Response(body as ArrayBuffer, { headers: { 'content-length': String(body.byteLength) } });
  };
  it('comes with its arrays, told by how much of them is there; what the page has is not sent again', async () => {
    answering(server);
    const shares: number[] = [];
    const first = await fetchCharacter('a', (s) => shares.push(s));
    expect(first.character).toEqual(tube());
    expect([first.fetched, shares[shares.length - 1]]).toEqual([new Set(stored.arrays).size, 1]);
    const second = await fetchCharacter('b');
    expect([second.fetched, asked.length]).toEqual([0, 3]);
  });
  it('is whole however little may be held, and what had to go is asked for again', async () => {
    await jest.isolateModulesAsync(async () => {
      jest.doMock('lru-cache', () => {
        const { LRUCache } = jest.requireActual<typeof Cache>('lru-cache');
        return {
          LRUCache: class extends LRUCache<string, Uint8Array> {
            constructor(options: Cache.LRUCache.Options<string, Uint8Array, unknown>) {
              super({ ...options, maxSize: 600 } as typeof options);
            }
          },
        };
      });
      const fresh = await import('@/ui/kit/api');
      answering(server);
      const once = await fresh.fetchCharacter('a');
      const again = await fresh.fetchCharacter('a');
      expect([once.character, again.character]).toEqual([tube(), tube()]);
      expect(again.fetched).toBeGreaterThan(0);
      expect(again.fetched).toBeLessThan(once.fetched);
    });
    jest.dontMock('lru-cache');
  });
  it('that is gone says so', async () => {
    answering(() =>
      Response.json(
        { message: 'This revision is not in the house any more; reload the page.' },
        { status: 404 },
      ),
    );
    await expect(fetchCharacter('c')).rejects.toMatchObject({ status: 404 });
  });
});

describe('looking into files', () => {
  const found = (unit: boolean, upAxis: boolean) =>
    Response.json({
      name: 'a',
      format: 'OBJ',
      unitMetres: 1,
      upAxis: 'y',
      stated: { unit, upAxis },
      size: [1, 2, 3],
      bones: 0,
      vertices: 8,
      clips: 0,
    });
  it('formats that always say their unit are not asked', async () => {
    answering(() => {
      throw new Error('nobody is to be asked');
    });
    expect(await surveyFiles([file('a.glb'), file('b.gltf')], never)).toBeNull();
  });
  it('others are asked, and only what they leave open is a question', async () => {
    answering(() => found(true, true));
    expect(await surveyFiles([file('a.dae')], never)).toBeNull();
    expect(asked[0].url).toBe(surveyPath);
    answering(() => found(false, true));
    expect(await surveyFiles([file('a.OBJ')], never)).toMatchObject({ size: [1, 2, 3] });
    answering(() => Response.json({ message: 'a.obj: it holds nothing.' }, { status: 422 }));
    await expect(surveyFiles([file('a.obj')], never)).rejects.toThrow('a.obj: it holds nothing.');
  });
});
