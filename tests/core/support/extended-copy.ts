/** A copy of the sources in a folder of its own, to which the examples of docs/adding.md are added as that page says. */
import { type BuildOptions, build } from 'esbuild';
import { spawnSync } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import path from 'node:path';

const root = process.cwd();

/** The page that tells how things are added. */
export const addingPage = readFileSync(path.join(root, 'docs', 'adding.md'), 'utf8');

/** The block of code of the page that is marked so, and the path that stands above it. */
export function exampleOf(mark: string): { readonly file: string; readonly code: string } {
  const found = new RegExp(`\`(src/[^\`]+)\`:\\n\\n\`\`\`ts ${mark}\\n([^]*?)\`\`\``).exec(addingPage);
  if (!found) throw new Error(`docs/adding.md shows no ${mark}.`);
  return { file: found[1], code: found[2] };
}

/** A copy of some of the sources, which lives until it is removed. */
export class ExtendedCopy {
  readonly folder = mkdtempSync(path.join(tmpdir(), 'adding-'));

  /** @param sources the folder of the house that is copied */
  constructor(sources: string) {
    cpSync(path.join(root, sources), path.join(this.folder, sources), { recursive: true });
    cpSync(path.join(root, 'package.json'), path.join(this.folder, 'package.json'));
    symlinkSync(path.join(root, 'node_modules'), path.join(this.folder, 'node_modules'));
  }

  /** Writes an example where the page says it belongs; returns its path. */
  write(mark: string): string {
    const { file, code } = exampleOf(mark);
    mkdirSync(path.dirname(path.join(this.folder, file)), { recursive: true });
    writeFileSync(path.join(this.folder, file), code);
    return file;
  }

  /** Changes a file as the page says; what it says, `told`, stands there word for word. */
  change(file: string, told: string, from: string | RegExp, to: string, head = ''): void {
    expect(addingPage).toContain(`\`${told}\``);
    const at = path.join(this.folder, file);
    const before = readFileSync(at, 'utf8');
    const after = before.replace(from, to);
    expect(after).not.toBe(before);
    writeFileSync(at, head + after);
  }

  /** Everything that some modules of the copy export, bundled and loaded. */
  async load(modules: readonly string[], options: BuildOptions = {}): Promise<unknown> {
    const entry = path.join(this.folder, 'entry.ts');
    writeFileSync(entry, modules.map((module) => `export * from './src/${module}';\n`).join(''));
    const outfile = path.join(this.folder, 'house.cjs');
    await build({
      entryPoints: [entry],
      bundle: true,
      platform: 'node',
      format: 'cjs',
      outfile,
      logLevel: 'silent',
      ...options,
    });
    return createRequire(path.join(root, 'package.json'))(outfile);
  }

  /** What the compiler says of some files of the copy: nothing where they are of the right types. */
  typeErrors(files: readonly string[]): string {
    const { compilerOptions } = JSON.parse(readFileSync(path.join(root, 'tsconfig.json'), 'utf8')) as {
      compilerOptions: object;
    };
    const config = { compilerOptions: { ...compilerOptions, incremental: false, types: ['node'] }, files };
    writeFileSync(path.join(this.folder, 'tsconfig.json'), JSON.stringify(config));
    const tsc = path.join(root, 'node_modules', '.bin', 'tsc');
    const { status, stdout, stderr } = spawnSync(tsc, ['-p', '.'], { cwd: this.folder, encoding: 'utf8' });
    return status === 0 ? '' : stdout + stderr || `The compiler ended with ${status}.`;
  }

  remove(): void {
    rmSync(this.folder, { recursive: true, force: true });
  }
}
