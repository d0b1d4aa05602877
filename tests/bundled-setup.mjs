/** What bundled tests are set up with: the same cases of fast-check every time (see seeded.ts). */
import fc from 'fast-check';

fc.configureGlobal({ seed: Number(process.env.BOUGH_SEED ?? 1) });
