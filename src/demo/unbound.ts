/** The Deckhand before he was bound: his own mesh and a new coat stand beside boots and a hat that are. */
import type { Character, Skin } from '../core/character/model';
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
  const worn = clean.nodes.flatMap((own) => (own.skin >= 0 && !isLoose(own) ? [own.skin] : []));
  const kept = clean.skins.map((_, i) => i).filter((skin) => worn.includes(skin));
  // What no skin lists is no joint in such a file: the first that is left lists those of all.
  const [first, ...others] = kept.map((skin) => clean.skins[skin]);
  const listed = clean.skins.reduce(withJointsOf, first);
  return {
    ...clean,
    skins: [listed, ...others],
    nodes: clean.nodes.map((own) => ({ ...own, skin: isLoose(own) ? -1 : kept.indexOf(own.skin) })),
    meshes: clean.meshes.map((mesh, i) =>
      loose.has(i) ? { ...mesh, influences: null, influenceStorage: null } : mesh,
    ),
  };
}

/** A skin with the joints that another lists as well; both are bound as the figure stands at rest. */
function withJointsOf(skin: Skin, other: Skin): Skin {
  const more = other.joints.flatMap((joint, at) => (skin.joints.includes(joint) ? [] : [at]));
  const inverseBinds = new Float64Array(skin.inverseBinds.length + more.length * 16);
  inverseBinds.set(skin.inverseBinds);
  more.forEach((at, i) =>
    inverseBinds.set(other.inverseBinds.subarray(at * 16, at * 16 + 16), skin.inverseBinds.length + i * 16),
  );
  return { ...skin, joints: [...skin.joints, ...more.map((at) => other.joints[at])], inverseBinds };
}
