import { spawn, spawnSync } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';

const folder = () => {
  const file = mkdtempSync(path.join(os.tmpdir(), 'bough-start-'));
  chmodSync(file, 0o755);
  return file;
};
const start = (env: Record<string, string>, as: { uid?: number; gid?: number } = {}) => {
  const { DATABASE_URL: _url, ...rest } = process.env;
  const returns = spawnSync(process.execPath, [path.resolve('scripts/start.mjs')], {
    encoding: 'utf8',
    env: { ...rest, NODE_OPTIONS: '', ...env } as NodeJS.ProcessEnv,
    timeout: 90_000,
    ...as,
  });
  return {
    code: returns.status,
    lines: returns.stderr
      .trim()
      .split('\n')
      .filter((word) => !word.startsWith('npm ')),
  };
};

it('a port in use is one clear sentence', async () => {
  const server = net.createServer();
  const port = await new Promise<number>((done) => {
    server.listen(0, '127.0.0.1', () => done((server.address() as net.AddressInfo).port));
  });
  const row = start({ PORT: String(port), BOUGH_DATA: folder() });
  server.close();
  expect(row.code).toBe(1);
  expect(row.lines).toEqual([
    `Port ${port} is in use by another program; stop that one, or choose another with PORT=….`,
  ]);
});

it.each([
  ['PORT', 'many'],
  ['BOUGH_UPLOAD_BYTES', '1 GB'],
  ['BOUGH_WORKER_SECONDS', '-3'],
])('%s that is no number is one clear sentence', (name, value) => {
  const row = start({ [name]: value, BOUGH_DATA: folder() });
  expect([row.code, row.lines]).toEqual([
    1,
    [expect.stringContaining(`${name} is “${value}”, which is no number`)],
  ]);
});

(process.getuid?.() === 0 ? it.skip : it)(
  'a data folder that may not be written is one clear sentence',
  () => {
    const data = folder();
    chmodSync(data, 0o555);
    const row = start({ BOUGH_DATA: path.join(data, 'inside') });
    expect([row.code, row.lines]).toEqual([
      1,
      [expect.stringMatching(/cannot be written: this user may not/)],
    ]);
  },
);

it('a data folder under a file is one clear sentence', () => {
  const data = folder();
  writeFileSync(path.join(data, 'file'), '');
  const row = start({ BOUGH_DATA: path.join(data, 'file') });
  expect([row.code, row.lines]).toEqual([1, [expect.stringMatching(/cannot be written: .* in its place/)]]);
});

it('an address that others can reach wants an access key', () => {
  const row = start({ BOUGH_HOST: '0.0.0.0', BOUGH_DATA: folder() });
  expect(row.code).toBe(1);
  expect(row.lines).toEqual([expect.stringContaining('set BOUGH_KEY to an access key')]);
});

it('a second start says that one runs, and where', () => {
  const data = folder();
  // What tells a start from any other process is what it was called with.
  const other = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)', '/elsewhere/start.mjs']);
  writeFileSync(
    path.join(data, 'running.json'),
    JSON.stringify({ pid: other.pid, address: 'http://127.0.0.1:4999' }),
  );
  const row = start({ BOUGH_DATA: data });
  other.kill();
  expect(row.code).toBe(1);
  expect(row.lines).toEqual([expect.stringContaining('runs already at http://127.0.0.1:4999')]);
});

/**
 * Under root another user stands in for one without rights; a checkout that such a user cannot read is left
 * out.
 */
const nobody = process.getuid?.() === 0 ? { uid: 65534, gid: 65534 } : {};
const readable = spawnSync('test', ['-r', path.resolve('dist/.stamp')], { cwd: '/', ...nobody }).status === 0;

(readable ? it : it.skip)(
  'a missing server binary without the right to install it is one clear sentence',
  () => {
    const data = folder();
    chmodSync(data, 0o777);
    const row = start({ BOUGH_DATA: data, PORT: '48124', BOUGH_POSTGRES: '/nowhere', HOME: data }, nobody);
    expect(row.code).toBe(1);
    expect(row.lines[row.lines.length - 1]).toMatch(
      /^the PostgreSQL server is missing and this user may not install it; run “apt-get install postgresql postgresql-contrib” as root/i,
    );
  },
);

it('a broken data folder is one clear sentence, and is left as it was', () => {
  const data = folder();
  mkdirSync(path.join(data, 'postgres'));
  writeFileSync(path.join(data, 'postgres', 'half a cluster'), '');
  const row = start({ BOUGH_DATA: data, PORT: '48123' });
  expect(row.code).toBe(1);
  expect(row.lines[row.lines.length - 1]).toMatch(
    /no PG_VERSION.*name another data folder with BOUGH_DATA; nothing in it was changed/,
  );
});

it('databases of two houses run beside each other, also where the folder of neither can be reached by their account', () => {
  // Folders of mode 0700: under root their databases lie elsewhere, both in one place.
  const [a, b] = [1, 2].map(() => mkdtempSync(path.join(os.tmpdir(), 'bough-start-')));
  const both = `
    import { startDatabase } from ${JSON.stringify(pathToFileURL(path.resolve('scripts/database.mjs')).href)};
    const [, ...folders] = process.argv;
    const one = await startDatabase(folders[0]);
    const two = await startDatabase(folders[1]);
    console.log(JSON.stringify({ urls: [one.url, two.url] }));
    await Promise.all([one.stop(), two.stop()]);
  `;
  const { DATABASE_URL: _url, ...env } = process.env;
  const ran = spawnSync(process.execPath, ['--input-type=module', '-e', both, '--', a, b], {
    encoding: 'utf8',
    env: { ...env, NODE_OPTIONS: '' },
    timeout: 120_000,
  });
  const { urls } = JSON.parse(ran.stdout.trim().split('\n').at(-1) ?? '') as { urls: string[] };
  expect(urls[0]).not.toBe(urls[1]);
});
