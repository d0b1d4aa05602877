import { addressOf } from '@/core/character/bundle';
import { readCharacter } from '@/core/formats';
import { type Docket, sealDocket } from '@/core/house/docket';
import { contentsOf } from '@/core/rooms/docket/contents';
import { itemsOf } from '@/core/rooms/docket/items';

/** A docket over a file. */
export function docketOver(bytes: Uint8Array, name = 'deckhand-r1.glb'): Docket {
  const character = readCharacter([{ name, bytes }]);
  return sealDocket({
    kind: 'young-bough-docket',
    version: 1,
    id: '6f1c',
    at: '2026-11-27T10:00:00.000Z',
    by: 'R. Lindqvist',
    note: '',
    character: { name: 'Deckhand', revision: 1, label: 'as delivered' },
    brief: { id: 'handset', version: 1, title: 'Night Ferry, handset' },
    format: 'glb',
    files: [{ name, bytes: bytes.length, sha256: addressOf(bytes) }],
    taken: itemsOf(character),
    leftOut: [],
    notes: [],
    counts: { stops: 0, worth: 0, note: 0 },
    findings: [],
    waived: [],
    steps: [],
    crosswalk: null,
    receiver: null,
    picture: null,
    contents: contentsOf(character),
  });
}
