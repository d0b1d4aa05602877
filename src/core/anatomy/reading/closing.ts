/**
 * Ends of chains that no list of words knows. People close chains with bones called after the bone above and one
 * word more, each studio with a word of its own: the skeleton tells which.
 */
import { MEANINGS } from './words';

/** So many chains closed with the same word make it a habit, not a bone that happens to be called so. */
const HABIT = 3;

/**
 * Which bones close a chain by such a word. `words`: those of every bone's name, `parents`: the bone above or -1.
 */
export function closesChain(words: readonly (readonly string[])[], parents: readonly number[]): boolean[] {
  const hasChild = new Set(parents);
  const added = words.map((list, i) => addedWord(list, words[parents[i]]));
  const leaves = new Map<string, number>();
  words.forEach((list, i) => {
    for (const word of new Set(list)) {
      // A word that stands anywhere else than at an end is part of what the bones are called.
      const isLeaf = added[i] === word && !hasChild.has(i);
      leaves.set(word, isLeaf ? (leaves.get(word) ?? 0) + 1 : -Infinity);
    }
  });
  return added.map((word) => word !== '' && (leaves.get(word) ?? 0) >= HABIT);
}

/** The strange word that a name adds to that of the bone above, numbers, Roman ones too, and letters aside; '' where it does anything else. */
function addedWord(list: readonly string[], above: readonly string[] | undefined): string {
  if (!above) return '';
  // Roman numbers count the bones of a finger.
  const isWord = (word: string) => /^\p{L}{3,}$/u.test(word) && !/^[ivx]+$/i.test(word);
  const added = list.filter((word) => isWord(word) && !above.includes(word));
  const lost = above.filter((word) => isWord(word) && !list.includes(word));
  return added.length === 1 && lost.length === 0 && !MEANINGS.has(added[0]) ? added[0] : '';
}
