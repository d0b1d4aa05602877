import { BRIEFS } from '../../core/house/briefs';
import { CHECKS, REMEDIES } from '../../core/house/registry';
import { RECEIVERS } from '../../core/rooms/docket/receivers';
import { SKELETONS } from '../../core/anatomy/skeletons';
import { type Command, print, printJson } from '../command';

interface Listed {
  readonly id: string;
  readonly title: string;
  readonly room: string;
}

/** A command that lists things of the house. */
const listCommand = (name: string, list: readonly Listed[]): Command => ({
  name,
  takes: '',
  options: { json: {} },
  run(given) {
    const rows = list.map(({ id, room, title }) => ({ id, room, title }));
    if (given.json) printJson(rows);
    else for (const row of rows) print(`${row.id.padEnd(20)} ${row.room.padEnd(10)} ${row.title}`);
    return 0;
  },
});

export const listCommands: readonly Command[] = [
  listCommand(
    'briefs',
    BRIEFS.map((brief) => ({ ...brief, room: 'docket' })),
  ),
  listCommand(
    'skeletons',
    SKELETONS.map((skeleton) => ({ ...skeleton, room: 'crosswalk' })),
  ),
  listCommand(
    'receivers',
    RECEIVERS.map((receiver) => ({ ...receiver, room: 'docket' })),
  ),
  listCommand('checks', CHECKS),
  listCommand('remedies', REMEDIES),
];
