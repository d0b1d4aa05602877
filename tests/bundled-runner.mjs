/**
 * Runs test files without a context of their own. Each is bundled with what it stands on, into modules that are shared:
 * they are loaded once for all files of a process, so that they stay warm, and call each other directly. In contexts
 * of their own the same files take half as long again and more. Files that replace modules need such a context, and are run
 * by Jest itself.
 */
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { SourceMap } from 'node:module';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { createRunner } from 'jest-light-runner';

const tests = path.dirname(fileURLToPath(import.meta.url));
const root = path.dirname(tests);

/** What CommonJS gives, for files that ask where a package lies. */
const REQUIRE = `import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);`;

/**
 * A result with the places of failures in the sources. Node could do that by itself, for every error that a test
 * provokes.
 */
function inSources(result) {
  const maps = new Map();
  const mapOf = (file) => {
    if (!maps.has(file)) maps.set(file, new SourceMap(JSON.parse(readFileSync(`${file}.map`, 'utf8'))));
    return maps.get(file);
  };
  const placed = (text) =>
    text.replace(/file:\/\/([^\s?]+\.mjs)(?:\?\d+)?:(\d+):(\d+)/g, (whole, file, line, column) => {
      if (!file.includes('/dist/tests-')) return whole;
      const { originalSource, originalLine, originalColumn } = mapOf(file).findEntry(line - 1, column - 1);
      return originalSource
        ? `${path.resolve(path.dirname(file), originalSource)}:${originalLine + 1}:${originalColumn + 1}`
        : whole;
    });
  return {
    ...result,
    failureMessage: placed(result.failureMessage),
    testResults: result.testResults.map((one) => ({
      ...one,
      failureMessages: one.failureMessages.map(placed),
    })),
  };
}

const LightRunner = createRunner({ runtime: 'child_process' });

/** Bundles test files into a folder, what they share in modules of its own. */
const bundle = (files, folder) =>
  build({
    entryPoints: files.map((test) => test.path),
    outdir: folder,
    outbase: tests,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    splitting: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    packages: 'external',
    alias: { '@': path.join(root, 'src') },
    banner: { js: REQUIRE },
    sourcemap: true,
    logLevel: 'silent',
  });

export default class BundledRunner extends LightRunner {
  async runTests(files, watcher, onStart, onResult, onFailure) {
    mkdirSync(path.join(root, 'dist'), { recursive: true });
    const folder = mkdtempSync(path.join(root, 'dist', 'tests-'));
    const bundleOf = (file) => path.join(folder, path.relative(tests, file).replace(/\.ts$/, '.mjs'));
    const sourceOf = new Map(files.map((test) => [bundleOf(test.path), test]));
    try {
      const broken = await bundle(files, folder).then(
        () => null,
        (error) => error,
      );
      // A file that cannot be built is told as a failure of all, so that nobody takes those that did not run for passed.
      if (broken) {
        for (const test of files) await onFailure(test, { message: broken.message, stack: broken.message });
        return;
      }
      const bundled = [...sourceOf].map(([file, test]) => ({ ...test, path: file }));
      await super.runTests(
        bundled,
        watcher,
        ({ path: file }) => onStart(sourceOf.get(file)),
        ({ path: file }, result) => {
          const test = sourceOf.get(file);
          return onResult(test, { ...inSources(result), testFilePath: test.path });
        },
        ({ path: file }, error) => onFailure(sourceOf.get(file), error),
      );
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  }
}
