import type { JobTold } from '@/routes/jobs';

/** How a job stands, in words. */
export function stateWords({ state, parts, progress, endedAt }: JobTold): string {
  if (parts && endedAt === null) return `${parts.ended} of ${parts.all} done`;
  if (parts && state === 'done' && parts.undone > 0)
    return `${parts.all - parts.undone} of ${parts.all} done, ${parts.undone} not`;
  if (state === 'asked') return 'waits its turn';
  if (state === 'running') return progress ? `${progress.stage} …` : 'at work …';
  return state;
}
