/** The Deckhand before he was bound: his own mesh and a new coat stand beside boots and a hat that are. */
import type { Character } from '../core/character/model';
import { cleanDeckhand } from './deckhand';
import type { PlantedFault } from './faults';

/** What is wrong with his weights. */
export const UNBOUND_FAULTS: readonly PlantedFault[] = [
  { check: 'not-bound', gravity: 'stops', about: 'his body and a new coat are bound to no bone yet' },
];

const LOOSE = ['body', 'oilskin coat'];

/** The clean Deckhand, two of whose meshes have no weights. */
export function unboundDeckhand(steps: number): Character {
  const clean = cleanDeckhand({ steps });
  const isLoose = ({ name, mesh }: Character['nodes'][number]) => mesh >= 0 && LOOSE.includes(name);
  const loose = new Set(clean.nodes.filter(isLoose).map(({ mesh }) => mesh));
  return {
    ...clean,
    name: 'deckhand, not bound',
    nodes: clean.nodes.map((own) => (isLoose(own) ? { ...own, skin: -1 } : own)),
    meshes: clean.meshes.map((mesh, i) =>
      loose.has(i) ? { ...mesh, influences: null, influenceStorage: null } : mesh,
    ),
  };
}
