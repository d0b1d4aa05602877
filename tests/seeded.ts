/**
 * fast-check as tests get it: the same cases every time, so that whoever broke nothing sees nothing break. Other cases
 * are for `npm run trial`, which gives a seed of its own.
 */
import fc from '../node_modules/fast-check/lib/cjs/fast-check.js';

fc.configureGlobal({ seed: Number(process.env.BOUGH_SEED ?? 1) });

export default fc;
