/** Patterns over names that a person writes: whether they are any, and whether they come to an end on every name. */

type Recheck = typeof import('recheck/lib/browser.js');
type CheckPattern = NonNullable<Recheck['checkSync']>;

let checkPattern: CheckPattern | undefined;

/**
 * The package that looks at patterns, three megabytes of it: it is loaded when the first pattern comes, since most
 * processes never see one.
 */
function patternCheck(): CheckPattern {
  checkPattern ??= (require('recheck/lib/browser.js') as Recheck).checkSync;
  if (!checkPattern) throw new Error('The package that looks at patterns is not as it was; install it anew.');
  return checkPattern;
}

/** A pattern may try as often as a name has letters, by itself; more makes long names slow. */
const MOST_DEGREE = 2;

const known = new Map<string, string | null>();

/** Why a pattern cannot be taken, to be read after it; null where it can. */
export function whyNot(pattern: string): string | null {
  let why = known.get(pattern);
  if (why === undefined) known.set(pattern, (why = judge(pattern)));
  return why;
}

function judge(pattern: string): string | null {
  try {
    new RegExp(pattern);
  } catch (error) {
    const words = error instanceof Error ? error.message.replace(/^Invalid regular expression: /, '') : '';
    return `is no regular expression: ${words}`;
  }
  // By automata alone: the same answer on every machine, however slow.
  const found = patternCheck()(pattern, '', { checker: 'automaton', timeout: null });
  if (found.status === 'safe') return null;
  const { complexity } = found.status === 'vulnerable' ? found : { complexity: null };
  if (complexity?.type === 'polynomial' && complexity.degree <= MOST_DEGREE) return null;
  return 'may take for ever on some names; repeat less inside of what is repeated';
}
