/** What can be done with what is chosen follows from the parameters of the remedies alone. */
import fc from 'fast-check';
import { bonesOf, weightOfNodes } from '@/core/character/hierarchy';
import { fieldsOf } from '@/core/contracts/params';
import {
  type ChosenThings,
  NOTHING_CHOSEN,
  callsByHand,
  candidatesOf,
  defaultsOf,
  remediesByHand,
} from '@/core/house/by-hand';
import { briefById } from '@/core/house/briefs';
import { doForKind } from '@/core/house/of-kind';
import { REMEDIES, remedyById } from '@/core/house/registry';
import { castCharacter } from './support/cast';

const clean = castCharacter('deckhand-clean.glb');
const deckhand = {
  ...clean,
  sets: [{ name: 'trunk', bones: bonesOf(clean).slice(0, 3), vertices: [], polygons: [] }],
};
const brief = briefById('handset')!;

const nodesChosen = (nodes: readonly number[]): ChosenThings => ({ ...NOTHING_CHOSEN, nodes });

const idsFor = (chosen: readonly number[], room = 'skeleton') =>
  remediesByHand(deckhand, nodesChosen(chosen), room).map(({ remedy }) => remedy.id);

it('with nothing chosen, those that are about the whole character', () => {
  const ids = idsFor([]);
  expect(ids.length).toBeGreaterThan(5);
  for (const id of ids) {
    const fields = fieldsOf(remedyById(id)!.params);
    expect([
      id,
      fields.filter(({ kind, ref, isOptional }) => kind === 'ref' && ref !== 'clip' && !isOptional),
    ]).toEqual([id, []]);
  }
});

it('every remedy with a reference is offered for whatever fits it, but for those that the hand alone can tell a place', () => {
  const missing = REMEDIES.flatMap(({ id, params }) => {
    // Clips are never chosen: they are asked for where nothing is.
    const field = fieldsOf(params).find(({ kind, ref }) => kind === 'ref' && ref !== 'clip');
    if (!field?.ref) return [];
    const [first] =
      field.ref === 'skin'
        ? deckhand.nodes.flatMap(({ skin }, i) => (skin >= 0 ? [i] : []))
        : candidatesOf(deckhand, field.ref);
    const chosen = field.ref === 'set' ? { ...NOTHING_CHOSEN, sets: [first] } : nodesChosen([first]);
    // What is about points or polygons is offered for those.
    const body = deckhand.nodes.findIndex(({ skin }) => skin >= 0);
    for (const { name, elements, isOptional } of fieldsOf(params))
      if (name !== 'points' && elements && !isOptional)
        Object.assign(chosen, { [elements]: [{ node: body, ids: Uint32Array.of(0) }] });
    const offers = remediesByHand(deckhand, chosen, 'skeleton');
    return offers.some(({ remedy }) => remedy.id === id) ? [] : [id];
  });
  // What they are given comes from dragging.
  expect(missing.sort()).toEqual(['brush-weights', 'move-joint', 'place-part']);
});

it('what is offered fits, and those of the room come first', () => {
  const nodes = fc.subarray(deckhand.nodes.map((_, i) => i));
  fc.assert(
    fc.property(nodes, fc.constantFrom('skeleton', 'weights', 'placement'), (chosen, room) => {
      const offers = remediesByHand(deckhand, nodesChosen(chosen), room);
      for (const { field, fitting } of offers) {
        if (!field) expect(chosen).toEqual([]);
        else if (field.ref === 'bone')
          for (const node of fitting) expect(deckhand.nodes[node].kind).toBe('bone');
        else if (field.ref === 'mesh')
          for (const node of fitting) expect(deckhand.nodes[node].mesh).toBeGreaterThan(-1);
      }
      const isHere = offers.map(({ remedy }) => remedy.room === room);
      expect(isHere).toEqual([...isHere].sort((a, b) => Number(b) - Number(a)));
    }),
    { numRuns: 40 },
  );
});

it('forty bones are one step: their weight goes to the nearest that is not among them', () => {
  const weight = weightOfNodes(deckhand);
  // All but the first few, which are the trunk: something must be left for their weight to go to.
  const some = bonesOf(deckhand)
    .filter((bone) => weight[bone] > 0)
    .slice(-40);
  expect(some.length).toBe(40);
  const offer = remediesByHand(deckhand, nodesChosen(some), 'weights').find(
    ({ remedy }) => remedy.id === 'give-to-parent',
  )!;
  expect(offer.fitting).toEqual(some);
  const done = doForKind(deckhand, callsByHand(offer, defaultsOf(offer.remedy)), brief);
  expect([done.patches.length, done.left]).toEqual([40, []]);
  const after = weightOfNodes(done.character);
  for (const bone of some) expect(after[bone]).toBe(0);
  const sum = (weights: ArrayLike<number>) => Array.from(weights).reduce((total, x) => total + x, 0);
  expect(sum(after)).toBeCloseTo(sum(weight), 3);
});

it('a second reference is asked for: re-hanging wants to know under what', () => {
  const bone = bonesOf(deckhand)[5];
  const offer = remediesByHand(deckhand, nodesChosen([bone]), 'skeleton').find(
    ({ remedy }) => remedy.id === 're-hang',
  )!;
  expect(offer.alsoAsked.map(({ name }) => name)).toEqual(['parent']);
});

it('a table of names is for the bones that are chosen, and for all where none is', () => {
  const [first, second] = bonesOf(deckhand);
  const rename = remedyById('rename')!;
  const table = { '*': 'crew_*' };
  const namesAfter = (bones?: readonly number[]) =>
    rename.apply(deckhand, { table, ...(bones && { bones }) }, brief).nodes.map(({ name }) => name);
  expect(namesAfter([first, second]).filter((name) => name.startsWith('crew_')).length).toBe(2);
  expect(namesAfter().every((name) => name.startsWith('crew_'))).toBe(true);
});
