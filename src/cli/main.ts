/**
 * `bough`: the core on the command line. Exit 0: nothing stops hand-off; 1: something does; 2: could not
 * read, or bad usage.
 */
import { run } from './run';

// A reader that has seen enough (“… | head”) closes the pipe; that is no fault.
process.stdout.on('error', (exception: NodeJS.ErrnoException) => {
  if (exception.code === 'EPIPE') process.exit();
  throw exception;
});
process.exitCode = run(process.argv.slice(2));
