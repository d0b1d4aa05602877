import { endComparison } from './compare';
import { NOTHING_PICKED } from './selection';
import { desk, setDesk } from './store';

/** Takes a tool into the hand; the same again puts it down. */
export function takeTool(tool: string): void {
  setDesk({ tool: desk().tool === tool ? 'turn' : tool });
}

/**
 * Puts down what is in the hand, one thing at a time: the tool, then what it gathered, then the comparison. A
 * draft stays: it is kept or taken back on purpose.
 */
export function putDown(): void {
  const { tool, picked, compared } = desk();
  if (tool !== 'turn') setDesk({ tool: 'turn' });
  else if (picked !== NOTHING_PICKED) setDesk({ picked: NOTHING_PICKED, lastChosen: 'finding' });
  else if (compared) endComparison();
}
