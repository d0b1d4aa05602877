import type { Character } from '../character/model';
import type { ChangeEffects } from '../contracts/effects';
import type { Params, Remedy } from '../contracts/remedy';
import type { Brief } from './brief';
import { effectsOf, nodesAfter } from './effects';
import { paramsAfter } from './rerun';

/** A row of a preview: the same number before and after; a dash where a state has none. */
export interface PreviewRow {
  readonly label: string;
  readonly before: number | string;
  readonly after: number | string;
  readonly unit: string;
}

/** What a remedy would change: rows before and after. */
export interface Preview {
  readonly rows: readonly PreviewRow[];
  readonly effects: ChangeEffects;
  /** The character as the remedy makes it. */
  readonly after: Character;
}

/**
 * What a remedy would do: its numbers before beside those after, and what else would move. Throws RemedyError
 * with one sentence.
 */
export function previewRemedy(
  remedy: Remedy<Params, Brief>,
  before: Character,
  params: Params,
  brief: Brief,
): Preview {
  const promised = remedy.promises(before, params, brief);
  const after = remedy.apply(before, params, brief);
  return {
    rows: compareRows(remedy, before, after, params, brief),
    effects: effectsOf(before, after, promised),
    after,
  };
}

/**
 * The rows of two states beside each other. What the parameters point at is looked up where it counts
 * afterwards.
 */
export function compareRows(
  remedy: Remedy<Params, Brief>,
  before: Character,
  after: Character,
  params: Params,
  brief: Brief,
): PreviewRow[] {
  const first = remedy.rows(before, params, brief);
  const later = paramsAfter(remedy, params, nodesAfter(before, after), remedy.rowsWithout);
  const second = later ? remedy.rows(after, later, brief) : [];
  const labels = new Set([...first, ...second].map((row) => row.label));
  return [...labels].map((label) => {
    const a = first.find((row) => row.label === label);
    const b = second.find((row) => row.label === label);
    return { label, before: a?.value ?? '—', after: b?.value ?? '—', unit: (b ?? a)?.unit ?? '' };
  });
}
