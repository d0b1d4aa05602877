import { arrivedAsItIs } from '../../core/house/arrival';
import { trialPoses } from '../../core/rooms/crosswalk/poses';
import { type Command, READING, briefOf, print, printJson, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile, writeFile } from '../files';
import { arrivalReport, arrivalText, receiverOf } from '../receiver';

/** Says what a receiver makes of a file, and writes it as that holds it. Exit 1 where something of it is lost. */
export const receiveCommand: Command = {
  name: 'receive',
  takes: 'FILE',
  options: {
    receiver: { value: 'R', needed: true },
    out: { value: 'F' },
    brief: { value: 'B' },
    json: {},
    ...READING,
  },
  run(given, files) {
    if (files.length !== 1) throw new UsageError('Name one file to receive.');
    const name = textOf(given, 'receiver');
    if (!name) throw new UsageError('Say which receiver with --receiver.');
    const receiver = receiverOf(name);
    const character = readFile(files[0], readOptionsOf(given));
    const arrived = arrivedAsItIs(character, receiver);
    const report = arrivalReport(receiver, arrived, trialPoses(character), briefOf(given).unit);
    const out = textOf(given, 'out');
    const notes = out ? writeFile(arrived.character, out) : [];
    if (given.json) printJson({ file: files[0], ...report, notes });
    else for (const line of [...arrivalText(receiver, report), ...notes]) print(line);
    return arrived.said.some((item) => item.kind === 'lost') ? 1 : 0;
  },
};
