import { boolean, object, string } from 'yup';
import { type PartKind, PART_KIND_WORDS } from '../../../character/part-kinds';
import type { Character, ElementSet } from '../../../character/model';
import { choiceOf, elementsTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy, promise } from '../../../contracts/remedy';
import { partsOf } from '../../../anatomy/parts';
import { joinedPolygons, partsOfChoice, polygonsOfParts } from '../../../contracts/chosen-parts';

const KINDS = { same: 'as it is read', ...PART_KIND_WORDS } as const;

/** Says what parts are: kept as a set of their polygons, so that it lasts over steps, files and deliveries. */
export const markParts = defineRemedy({
  id: 'mark-parts',
  room: 'surface',
  title: 'Say what parts are',
  does: 'What is said of the parts is kept as a set: their kind, that they do not bend, that they need no twin on the other side. The figure itself stays as it is.',
  params: object({
    polygons: elementsTo('polygons', 'Polygons').required(),
    kind: choiceOf('Kind', KINDS).default('same'),
    rigid: boolean().default(false).meta({ label: 'Rigid: goes with one bone' }),
    oneSided: boolean().default(false).meta({ label: 'Needs no twin on the other side' }),
    name: string().trim().max(255).meta({ label: 'Name' }),
  }),
  rows: (character, { polygons }) => {
    const parts = partsOfChoice(character, polygons);
    return parts.slice(0, 6).map(({ name, kind, isRigid, isOneSided }) => ({
      label: name,
      value: [kind ? PART_KIND_WORDS[kind] : 'not known', isRigid && 'rigid', isOneSided && 'needs no twin']
        .filter(Boolean)
        .join(', '),
      unit: '',
    }));
  },
  promises: () => promise(['sets']),
  apply(character, { polygons, kind, rigid, oneSided, name }) {
    const parts = partsOfChoice(character, polygons);
    if (parts.length === 0)
      throw new NothingToDo('No part is chosen; press one on the stage or in the table of parts first.');
    const said = {
      ...(kind === 'same' ? {} : { partKind: kind as PartKind }),
      ...(rigid ? { isRigid: true } : {}),
      ...(oneSided ? { isOneSided: true } : {}),
    };
    const before = withoutParts(character, parts);
    if (Object.keys(said).length === 0) {
      if (before === character.sets)
        throw new NothingToDo(
          'Nothing is said of these parts, and nothing was; choose a kind, or say that they are rigid.',
        );
      return { ...character, sets: before };
    }
    const words = [
      kind !== 'same' && PART_KIND_WORDS[kind].replace(/,.*/, ''),
      rigid && 'rigid',
      oneSided && 'one-sided',
    ];
    const title = nameAmong(before, name || words.filter(Boolean).join(', '));
    const set: ElementSet = {
      name: title,
      tint: '#4a6b3a',
      ...said,
      bones: [],
      vertices: [],
      polygons: polygonsOfParts(parts),
    };
    const same = before.find((other) => other.name === title && saysSomething(other));
    const joined = same ? { ...same, ...said, polygons: joinedPolygons(same.polygons, set.polygons) } : set;
    const sets = same ? before.map((other) => (other === same ? joined : other)) : [...before, joined];
    return { ...character, sets };
  },
});

const saysSomething = ({ partKind, isRigid, isOneSided }: ElementSet): boolean =>
  Boolean(partKind ?? isRigid ?? isOneSided);

/** A name that no set of another purpose has: what somebody keeps together is not said to be something by the way. */
function nameAmong(sets: readonly ElementSet[], wanted: string): string {
  const isTaken = (name: string) => sets.some((set) => set.name === name && !saysSomething(set));
  let name = wanted;
  for (let k = 2; isTaken(name); k++) name = `${wanted} ${k}`;
  return name;
}

/** The sets that say something of parts, without these parts; one that then says nothing of anything goes. */
function withoutParts(character: Character, parts: ReturnType<typeof partsOf>): readonly ElementSet[] {
  const gone = new Map(polygonsOfParts(parts).map(({ node, ids }) => [node, new Set(ids)]));
  let isSame = true;
  const sets = character.sets.flatMap((set) => {
    if (!saysSomething(set)) return [set];
    const left = set.polygons.flatMap(({ node, ids }) => {
      const kept = ids.filter((id) => !gone.get(node)?.has(id));
      if (kept.length !== ids.length) isSame = false;
      return kept.length > 0 ? [{ node, ids: kept }] : [];
    });
    const isEmpty = left.length === 0 && set.bones.length + set.vertices.length === 0;
    return isEmpty ? [] : [{ ...set, polygons: left }];
  });
  return isSame ? character.sets : sets;
}
