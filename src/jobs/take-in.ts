import type { TakeIn } from '../server/cast';
import { runJob } from '../worker/tasks';

/** Reads files as a character in this very process. Throws what a person can read. */
export const takeIn: TakeIn = (files, brief) => {
  const made = runJob<'import'>({ task: 'import', input: { files: [...files], brief } });
  if ('refused' in made) throw new Error(made.refused);
  return made;
};
