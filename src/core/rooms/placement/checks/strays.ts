import { object } from 'yup';
import { theCharacter } from '../../../contracts/finding';
import { type Found, defineCheck } from '../../../contracts/check';
import { type StrayKind, leftoverData, sceneOf } from '../scene';

const PLURAL: Readonly<Record<StrayKind, string>> = {
  'empty node': 'empty nodes',
  camera: 'cameras',
  light: 'lights',
  'hidden leftover': 'hidden leftovers',
  'mesh without polygons': 'meshes without polygons',
};

/** What belongs to nobody: empty nodes, cameras, lights, hidden leftovers, and data left over from a bind. */
export const straysCheck = defineCheck({
  id: 'strays',
  room: 'placement',
  title: 'Strays',
  why: 'What belongs to nobody is loaded all the same: it costs, shows up in the game, or is taken for part of the character by the next tool.',
  settings: object({}),
  reads: ['tree', 'names', 'shows', 'joints', 'weights', 'polygons', 'carried'],
  run(character) {
    const { strays } = sceneOf(character);
    const out: Found[] = [];
    if (strays.size > 0) {
      const kinds = [...new Set(strays.values())].map((stray) => {
        const count = [...strays.values()].filter((kind) => kind === stray).length;
        return { k: stray, n: count, words: `${count} ${count === 1 ? stray : PLURAL[stray]}` };
      });
      const names = [...strays.keys()]
        .slice(0, 3)
        .map((i) => `“${character.nodes[i].name || `node ${i}`}”`)
        .join(', ');
      out.push({
        // An empty node alone may be a place to attach something: that is for the rigger to know.
        gravity: kinds.every((kind) => kind.k === 'empty node') ? 'note' : 'worth',
        subject: theCharacter(character),
        unit: 'nodes',
        count: strays.size,
        message: `${kinds.map((kind) => kind.words).join(', ')} ${strays.size === 1 ? 'belongs' : 'belong'} to nobody: ${names}${strays.size > 3 ? ' …' : ''}`,
        measured: strays.size,
        expected: 0,
        evidence: kinds.map(({ k: kind, n: now }) => ({
          label: PLURAL[kind][0].toUpperCase() + PLURAL[kind].slice(1),
          now,
          brief: 0,
          unit: '',
        })),
        elements: [{ kind: 'node', node: [...strays.keys()][0], ids: Uint32Array.from(strays.keys()) }],
        remedies: [{ id: 'remove-strays', params: {} }],
        mark: 'nodes',
      });
    }
    const left = leftoverData(character);
    const total = left.skins.length + left.meshes.length + left.influences.length;
    if (total > 0 && character.meshes.length > 0) {
      out.push({
        gravity: 'worth',
        subject: theCharacter(character),
        unit: '',
        count: total,
        message: 'Data of a bind that is gone lies about',
        measured: total,
        expected: 0,
        evidence: [
          { label: 'Skins that nothing uses', now: left.skins.length, brief: 0, unit: '' },
          { label: 'Meshes that nothing shows', now: left.meshes.length, brief: 0, unit: '' },
          { label: 'Meshes with weights and no skin', now: left.influences.length, brief: 0, unit: '' },
        ],
        remedies: [{ id: 'remove-strays', params: {} }],
        mark: 'data',
      });
    }
    return out;
  },
});
