/** What stands before every request, by itself and before a server of its own. */
import { type Server, createServer, request as send } from 'node:http';
import type { AddressInfo } from 'node:net';
import fc from 'fast-check';
import { behindGate } from '@/server/doorway';
import { EDIT_BYTES, type GateRules, JSON_BYTES, type RequestHead, bodyBound, turnAway } from '@/server/gate';

const rules: GateRules = { key: '', hosts: [], uploads: 10 << 20 };
const head = (change: Partial<RequestHead> = {}): RequestHead => ({
  method: 'POST',
  url: '/api/characters',
  headers: { host: '127.0.0.1:4810' },
  ...change,
});
const withHeaders = (headers: Record<string, string>, change: Partial<RequestHead> = {}) =>
  head({ ...change, headers: { host: '127.0.0.1:4810', ...headers } });
const basic = (text: string) => `Basic ${Buffer.from(text, 'utf8').toString('base64')}`;

describe('who may come in', () => {
  it('on loopback, requests under loopback names', () => {
    for (const host of ['localhost:4810', '127.0.0.1:1', '[::1]:4810', '127.9.9.9'])
      expect(turnAway(withHeaders({ host }), rules)).toBe(null);
    for (const host of ['example.org', '127.0.0.1.example.org', '', 'localhost.example'])
      expect(turnAway(withHeaders({ host }), rules)?.status).toBe(403);
  });
  it('with a key, requests under addresses of numbers and the names that it was given', () => {
    const kept = { ...rules, key: 'k', hosts: ['bough.example'] };
    const under = (host: string) => turnAway(withHeaders({ host, authorization: basic('me:k') }), kept);
    for (const host of ['192.0.2.7:4810', '[2001:db8::1]:4810', 'localhost', 'Bough.Example:4810'])
      expect(under(host)).toBe(null);
    for (const host of ['rebound.example', '192.0.2.7.rebound.example', 'x.bough.example', ''])
      expect(under(host)).toMatchObject({ status: 403, message: expect.stringMatching(/BOUGH_HOSTS/) });
  });
  it('with a key, who carries it, whatever letters it has (RFC 7617, UTF-8)', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 1 }), fc.string(), (key, other) => {
        const kept = { ...rules, key };
        const answer = (given: string) =>
          turnAway(withHeaders({ authorization: basic(`me:${given}`) }), kept);
        expect(answer(key)).toBe(null);
        if (other !== key) expect(answer(other)?.status).toBe(401);
      }),
    );
    const turned = turnAway(head(), { ...rules, key: 'grün' });
    expect(turned?.status).toBe(401);
    expect(turned?.headers?.['www-authenticate']).toContain('charset="UTF-8"');
  });
  it.each<[string, RequestHead, number]>([
    ['a broken origin', withHeaders({ origin: 'nonsense' }), 400],
    ['another origin', withHeaders({ origin: 'http://example.org' }), 403],
    ['no origin of its own', withHeaders({ origin: 'null' }), 403],
    ['another site', withHeaders({ 'sec-fetch-site': 'cross-site' }), 403],
    ['a broken escape', head({ method: 'GET', url: '/c/%E0%A4%A' }), 400],
    ['TRACE', head({ method: 'TRACE' }), 405],
    ['a made-up method', head({ method: 'PROPFIND' }), 405],
  ])('%s is turned away with a sentence', (_, asked, status) => {
    const turned = turnAway(asked, rules);
    expect(turned?.status).toBe(status);
    expect(turned?.message).toMatch(/^[A-Z].*\.$/);
  });
  it('our own pages, and what reads from wherever', () => {
    expect(turnAway(withHeaders({ origin: 'http://127.0.0.1:4810' }), rules)).toBe(null);
    expect(turnAway(withHeaders({ 'sec-fetch-site': 'cross-site' }, { method: 'GET' }), rules)).toBe(null);
  });
});

describe('how much may be sent', () => {
  it.each<[string, string, string, number]>([
    ['files', 'POST', '/api/characters', rules.uploads + (1 << 20)],
    ['files onto a character', 'POST', '/api/characters/x/files', rules.uploads + (1 << 20)],
    ['a new delivery', 'POST', '/api/characters/x/deliveries', rules.uploads + (1 << 20)],
    ['a look at files', 'POST', '/api/survey', rules.uploads + (1 << 20)],
    ['what the hand did', 'POST', '/api/characters/x/steps/edit?base=1', EDIT_BYTES],
    ['a remedy', 'POST', '/api/characters/x/steps/remedy', JSON_BYTES],
    ['a name', 'PATCH', '/api/characters/x', JSON_BYTES],
  ])('%s', (_, method, url, bound) => {
    expect(bodyBound(head({ method, url }), rules)).toBe(bound);
    const announced = (n: number) =>
      turnAway(withHeaders({ 'content-length': String(n) }, { method, url }), rules);
    expect(announced(bound)).toBe(null);
    expect(announced(bound + 1)).toMatchObject({ status: 413, message: expect.stringMatching(/ bytes /) });
  });
});

describe('before a server', () => {
  let server: Server;
  let taken = 0;
  let isWhole = false;
  const port = () => (server.address() as AddressInfo).port;
  beforeAll(async () => {
    const small = { ...rules, uploads: 1 << 20 };
    server = createServer(
      behindGate(small, async (request, response) => {
        taken = 0;
        isWhole = false;
        try {
          for await (const chunk of request) taken += (chunk as Buffer).length;
          isWhole = true;
        } catch {
          return;
        }
        if (!response.headersSent) response.end('{}');
      }),
    );
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  });
  afterAll(() => {
    server.closeAllConnections();
    server.close();
  });

  /** Sends so many megabytes without saying how many there will be. */
  const pour = (megabytes: number, path = '/api/characters') =>
    new Promise<{ status: number; text: string }>((done, fail) => {
      const out = send({ port: port(), host: '127.0.0.1', path, method: 'POST' }, (answer) => {
        let text = '';
        answer.on('data', (d) => (text += String(d)));
        answer.on('end', () => done({ status: answer.statusCode ?? 0, text }));
      });
      let answered = false;
      out.on('response', () => {
        answered = true;
      });
      out.on('error', (error) => {
        if (!answered) fail(error);
      });
      const chunk = Buffer.alloc(1 << 18);
      let left = megabytes * 4;
      const more = () => {
        while (left > 0 && !answered) {
          left--;
          if (!out.write(chunk)) {
            out.once('drain', more);
            return;
          }
        }
        out.end();
      };
      more();
    });

  it('what fits comes through whole', async () => {
    expect(await pour(1)).toMatchObject({ status: 200 });
    expect([taken, isWhole]).toEqual([1 << 20, true]);
  });
  it('what does not say how long it is is counted, and no more of it taken in than may be', async () => {
    const { status, text } = await pour(400);
    expect(status).toBe(413);
    expect((JSON.parse(text) as { message: string }).message).toMatch(/larger than 1048576 bytes together/);
    expect(taken).toBeLessThanOrEqual((2 << 20) + 1);
  });
  it('what is turned away is not taken in at all', async () => {
    taken = -1;
    const answer = await fetch(`http://127.0.0.1:${port()}/api/characters`, {
      method: 'POST',
      headers: { origin: 'http://example.org' },
      body: 'x'.repeat(100_000),
    });
    expect([answer.status, taken]).toEqual([403, -1]);
  });
  describe('with a key', () => {
    let kept: Server;
    let now = 0;
    const at = () => `http://127.0.0.1:${(kept.address() as AddressInfo).port}/`;
    const ask = (key?: string) =>
      fetch(at(), key === undefined ? {} : { headers: { authorization: basic(`me:${key}`) } });
    beforeAll(async () => {
      kept = createServer(
        behindGate(
          { ...rules, key: 'right' },
          (_, response) => response.end('{}'),
          () => now,
        ),
      );
      await new Promise<void>((done) => kept.listen(0, '127.0.0.1', done));
    });
    afterAll(() => {
      kept.closeAllConnections();
      kept.close();
    });
    it('whoever guesses waits longer each time, and is told in the log; whoever has it is not slowed down', async () => {
      const log = jest.spyOn(process.stderr, 'write').mockReturnValue(true);
      for (let i = 0; i < 5; i++) expect((await ask('wrong')).status).toBe(401);
      expect((await ask('right')).status).toBe(200);
      // What was right takes the mistakes away.
      for (let i = 0; i < 6; i++) expect((await ask('wrong')).status).toBe(401);
      const slow = await ask('right');
      expect([slow.status, slow.headers.get('retry-after')]).toEqual([429, '1']);
      expect(((await slow.json()) as { message: string }).message).toMatch(/try again in 1 second\.$/);
      // A page without any key is asked for it as before.
      expect((await ask()).status).toBe(401);
      now += 1000;
      expect((await ask('wrong')).status).toBe(401);
      now += 1000;
      expect((await ask('right')).status).toBe(429);
      now += 1000;
      expect((await ask('right')).status).toBe(200);
      const told = log.mock.calls.map(([line]) => String(line));
      log.mockRestore();
      expect(told).toEqual(
        expect.arrayContaining([expect.stringMatching(/^5 wrong access keys from .*127\.0\.0\.1/)]),
      );
    });
    it('guesses get through no faster than one a minute in the end', async () => {
      const log = jest.spyOn(process.stderr, 'write').mockReturnValue(true);
      let looked = 0;
      for (let second = 0; second < 600; second++) {
        now += 1000;
        if ((await ask('guess')).status === 401) looked++;
      }
      log.mockRestore();
      expect(looked).toBeLessThan(21);
      now += 700_000;
    });
  });
  it('every page carries a policy with a nonce of its own, every answer of the API one without scripts', async () => {
    const policy = async (path: string) =>
      (await fetch(`http://127.0.0.1:${port()}${path}`)).headers.get('content-security-policy') ?? '';
    const nonce = /'nonce-([^']+)'/;
    const [a, b] = [await policy('/'), await policy('/c/x')];
    expect(nonce.exec(a)?.[1]).toHaveLength(24);
    expect(nonce.exec(a)?.[1]).not.toBe(nonce.exec(b)?.[1]);
    expect(await policy('/api/characters')).toMatch(/^default-src 'none'/);
  });
});
