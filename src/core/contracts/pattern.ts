/**
 * Patterns over names that a person writes. They are matched by an automaton (re2js, after RE2: Cox, “Regular expression
 * matching can be simple and fast”, 2007), whose time grows with the length of the name alone, whatever the pattern: one
 * that would never end does not exist. What automata cannot do (looking around, going back to what was found) is refused.
 */
import { LRUCache } from 'lru-cache';
import { RE2JS } from 're2js';

/** The longest pattern that is taken, letters. */
const LONGEST_PATTERN = 1000;

/** The largest automaton that is made of one, in states: counted repeats grow it. Matching costs states times letters. */
const MOST_STATES = 4000;

/** A pattern that names are held against. */
export interface NamePattern {
  /** True where it is found somewhere in the name. */
  test(name: string): boolean;
  /** What was found first, and what stood for each of its groups; null where nothing was. */
  exec(name: string): readonly string[] | null;
  /** The name without all that was found. */
  removeFrom(name: string): string;
}

class Automaton implements NamePattern {
  constructor(private readonly expression: RE2JS) {}

  test(name: string): boolean {
    return this.expression.test(name);
  }

  exec(name: string): readonly string[] | null {
    const found = this.expression.matcher(name);
    if (!found.find()) return null;
    return Array.from({ length: found.groupCount() + 1 }, (_, i) => found.group(i) ?? '');
  }

  removeFrom(name: string): string {
    return this.test(name) ? this.expression.matcher(name).replaceAll('') : name;
  }
}

/** Patterns that were made last; a brief has a handful. */
const made = new LRUCache<string, NamePattern>({ max: 200 });

/**
 * A pattern as a person wrote it, in the syntax that regular expressions share.
 * @param isCaseBlind whether capitals and small letters are the same
 * @throws an Error with the reason, to be read after the pattern, where it cannot be taken
 */
export function namePattern(pattern: string, isCaseBlind = false): NamePattern {
  const key = `${isCaseBlind ? 'i' : ''}/${pattern}`;
  let known = made.get(key);
  if (!known) made.set(key, (known = make(pattern, isCaseBlind)));
  return known;
}

/**
 * A name with signs in it that stand for more than themselves, as a pattern over the whole name.
 * @param signs what each of them stands for
 */
export function wildcardPattern(name: string, signs: Readonly<Record<string, string>>): NamePattern {
  const parts = [...name].map((letter) => signs[letter] ?? RE2JS.quote(letter));
  return new Automaton(RE2JS.compile(`^(?s:${parts.join('')})$`));
}

function make(pattern: string, isCaseBlind: boolean): NamePattern {
  if (pattern.length > LONGEST_PATTERN)
    throw new Error(`has ${pattern.length} letters, and ${LONGEST_PATTERN} are the most; make it shorter`);
  let expression: RE2JS;
  try {
    expression = RE2JS.compile(RE2JS.translateRegExp(pattern), isCaseBlind ? RE2JS.CASE_INSENSITIVE : 0);
  } catch (error) {
    throw new Error(whyNone(error), { cause: error });
  }
  if (expression.programSize() > MOST_STATES)
    throw new Error('counts too far: repeats that are counted make it too large; repeat without counting');
  return new Automaton(expression);
}

function whyNone(error: unknown): string {
  const words = error instanceof Error ? error.message.replace(/^error parsing regexp: /, '') : '';
  if (/\(\?[=!<]/.test(words))
    return 'looks around at what stands beside a match, which names are not searched for; say it without';
  if (/repeat/.test(words)) return `repeats what is repeated too often: ${words}`;
  return `is no regular expression: ${words}`;
}

/** Why a pattern cannot be taken, to be read after it; null where it can. */
export function whyNot(pattern: string): string | null {
  try {
    namePattern(pattern);
    return null;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}
