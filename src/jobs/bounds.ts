/** How long a task of a job may take and how much memory: by its kind, and by the settings of whoever runs the house. */
import { number, object } from 'yup';
import type { Lane } from '../routes/jobs';
import { type Bounds, requestBounds } from '../server/pool';
import type { JobKind } from './job';

const one = object({ seconds: number().positive(), megabytes: number().positive() }).noUnknown();

/** What is set, kind by kind, as JSON: `{"move": {"seconds": 7200, "megabytes": 8192}}`. */
const SETTING = 'BOUGH_JOB_BOUNDS';

function settings(): Record<string, Partial<Omit<Bounds, 'niceness'>>> {
  const text = process.env[SETTING];
  if (!text) return {};
  try {
    const all = JSON.parse(text) as Record<string, unknown>;
    return Object.fromEntries(
      Object.entries(all).map(([kind, said]) => [kind, one.validateSync(said, { strict: true })]),
    );
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    throw new Error(
      `${SETTING} is not as it should be (${why}); it holds kinds of jobs with seconds and megabytes.`,
    );
  }
}

/** What comes in heaps gives way to what somebody waits for, and both to the server that answers people. */
const NICENESS: Readonly<Record<Lane, number>> = {
  'at hand': 3,
  'one at a time': 9,
  'in heaps': 15,
  printing: 9,
};

/** Set to `no` where nothing of others runs beside the house, or where what does would leave it no time at all. */
const givesWay = () => process.env.BOUGH_GIVES_WAY !== 'no';

/** The bounds of a kind. Throws where the setting cannot be read. */
export const boundsOf = ({ kind, lane, bounds }: Pick<JobKind, 'kind' | 'lane' | 'bounds'>): Bounds => ({
  ...requestBounds(),
  niceness: givesWay() ? NICENESS[lane] : 0,
  ...bounds,
  ...settings()[kind],
});

/** Throws one sentence where what is set names a kind that there is not, or cannot be read. */
export function checkBounds(kinds: readonly Pick<JobKind, 'kind'>[]): void {
  for (const name of Object.keys(settings()))
    if (!kinds.some((kind) => kind.kind === name))
      throw new Error(
        `${SETTING} names “${name}”, which is no kind of job; there are ${kinds.map((kind) => kind.kind).join(', ')}.`,
      );
}
