import type { Remote } from 'comlink';
import { desk } from '../../state/store';
import { solveWorker } from '../../state/worker';
import type { SolveWorker } from '../../worker/solve.worker';

/** The worker that solves, with what lies on the desk before it. */
export function solver(): Remote<SolveWorker> {
  const { character } = desk();
  if (!character) throw new Error('Nothing lies on the desk that could be moved.');
  return solveWorker(character);
}
