import type { JobTold } from '../routes/jobs';
import type { JobRow } from './ask';

/** Counts as the database gives them. */
type Count = number | string | null;

/** A job as it is told to pages; with its parts counted where it has any. */
export const jobTold = (row: JobRow & { all?: Count; ended?: Count; undone?: Count }): JobTold => ({
  id: row.id,
  kind: row.kind,
  lane: row.lane,
  title: row.title,
  state: row.state,
  askedBy: row.asked_by,
  character: row.character_id,
  base: row.base,
  progress: row.progress,
  answer: row.answer ?? null,
  message: row.message,
  askedAt: row.created_at.toISOString(),
  endedAt: row.ended_at?.toISOString() ?? null,
  parts:
    Number(row.all ?? 0) > 0
      ? { all: Number(row.all), ended: Number(row.ended), undone: Number(row.undone) }
      : null,
});
