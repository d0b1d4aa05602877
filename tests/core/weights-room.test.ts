/** The weights room as a whole: what it finds on the cast, and that what its findings offer leads to nothing open. */
import { brokenInvariants } from '@/core/character/invariants';
import type { Character } from '@/core/character/model';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { previewRemedy } from '@/core/house/preview';
import { remedyById } from '@/core/house/registry';
import { sharesOfMesh } from '@/core/rooms/weights/steps';
import { ownersOf, pointsPulled, pullsOf } from '@/core/rooms/weights/figures';
import { pointsOf } from '@/core/character/points';
import { influencesFrom, entriesOf } from '@/core/geometry/influences';
import { replaceAt } from '@/core/character/model';
import { UNBOUND_FAULTS } from '@/demo/unbound';
import { castCharacter, handBytes } from './support/cast';
import { readGltf } from '@/core/formats/gltf/read';

const brief = briefById('handset')!;
const openIn = (character: Character) =>
  audit(character, brief).filter(({ room, gravity }) => room === 'weights' && gravity !== 'note');

/** Does the first remedy of the first finding until there is none left. */
function mended(start: Character): { character: Character; steps: string[] } {
  let character = start;
  const steps: string[] = [];
  for (let i = 0; i < 16; i++) {
    const [first] = openIn(character);
    if (!first) break;
    const { id, params } = first.remedies[0];
    const remedy = remedyById(id)!;
    const cast = remedy.params.validateSync(params) as Record<string, unknown>;
    const { after, effects } = previewRemedy(remedy, character, cast, brief);
    expect(effects.outside).toEqual([]);
    expect(brokenInvariants(after)).toEqual([]);
    steps.push(id);
    character = after;
  }
  return { character, steps };
}

describe('the weights of the cast', () => {
  it('the Deckhand’s go from all their findings to none by what these offer', () => {
    const { character, steps } = mended(castCharacter('deckhand.glb'));
    expect(openIn(character).map(({ message }) => message)).toEqual([]);
    expect(steps).toEqual(expect.arrayContaining(['limit-influences', 'fill-weights', 'give-to-parent']));
  });
  it('the Stoker’s boot lets go of the other leg', () => {
    const stoker = castCharacter('stoker.dae');
    expect(openIn(stoker).map(({ check }) => check)).toEqual(['across-sides', 'uneven-weights']);
    const { character, steps } = mended(stoker);
    expect(steps).toEqual(['take-bone-out']);
    expect(openIn(character)).toEqual([]);
  });
  it('the Deckhand that is not bound: his body by heat, his coat from the body', () => {
    let character = castCharacter('deckhand-unbound.glb');
    const found = openIn(character);
    expect([...new Set(found.map(({ gravity, check }) => `${gravity} ${check}`))]).toEqual(
      UNBOUND_FAULTS.map(({ gravity, check }) => `${gravity} ${check}`),
    );
    expect(found).toHaveLength(2);
    const node = (name: string) => character.nodes.findIndex((own) => own.name === name && own.mesh >= 0);
    const offered = (name: string) =>
      openIn(character)
        .find(({ check, subject }) => check === 'not-bound' && subject.name === name)!
        .remedies.map(({ id }) => id);
    // The boots, which are bound, have no weights for a whole body.
    expect(offered('body')).toEqual(['bind', 'copy-weights', 'remove-strays']);
    for (const [id, params] of [
      ['bind', { nodes: [node('body')] }],
      ['copy-weights', { node: node('oilskin coat'), from: node('body') }],
    ] as const) {
      const remedy = remedyById(id)!;
      const cast = remedy.params.validateSync(params) as Record<string, unknown>;
      // A body that is bound by now has some for its coat.
      if (id === 'copy-weights')
        expect(offered('oilskin coat')).toEqual(['copy-weights', 'bind', 'remove-strays']);
      character = remedy.apply(character, cast, brief);
    }
    expect(brokenInvariants(character)).toEqual([]);
    expect(openIn(character).filter(({ gravity }) => gravity === 'stops')).toEqual([]);
    for (const name of ['body', 'oilskin coat']) {
      const shares = sharesOfMesh(character.meshes[character.nodes[node(name)].mesh])!;
      for (let point = 0; point + 1 < shares.offsets.length; point++)
        expect(shares.countAt(point)).toBeGreaterThan(0);
    }
  });
});

describe('faults planted on a hand that others made are found, and nothing else', () => {
  const hand = readGltf([{ name: 'left.glb', bytes: handBytes('left') }]);
  const node = hand.nodes.findIndex(({ skin }) => skin >= 0);
  const mesh = hand.meshes[hand.nodes[node].mesh];
  const { joints } = hand.skins[hand.nodes[node].skin];
  const jointOf = (name: string) => joints.findIndex((joint) => hand.nodes[joint].name.includes(name));
  const checks = ['far-weight', 'odd-points', 'across-sides', 'doubled-bones', 'rigid-parts'];
  const told = (character: Character) =>
    audit(character, brief).filter(({ check }) => checks.includes(check));
  const planted = (change: (row: [number, number][], vertex: number) => [number, number][]): Character => {
    const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) =>
      change(
        entriesOf(mesh.influences!, vertex).map(({ joint, weight }) => [joint, weight]),
        vertex,
      ),
    );
    const spoilt = { ...mesh, influences: influencesFrom(rows) };
    return { ...hand, meshes: replaceAt(hand.meshes, new Map([[hand.nodes[node].mesh, spoilt]])) };
  };
  it('none of these is told of it as it came', () => {
    expect(told(hand)).toEqual([]);
  });
  it('a patch of the little finger that the tip of the thumb pulls', () => {
    const thumb = jointOf('thumb-phalanx-distal');
    const tip = pointsPulled(hand, joints[jointOf('pinky-finger-phalanx-distal')], 0.9, 1)[0].ids;
    const isIn = new Set(tip.slice(0, 24));
    const spoilt = planted((row, vertex) =>
      isIn.has(vertex) ? [[thumb, 0.3], ...row.map(([j, w]): [number, number] => [j, w * 0.7])] : row,
    );
    const found = told(spoilt);
    expect(found.map(({ check }) => check)).toEqual(['far-weight']);
    const { ids } = found[0].elements[0];
    const { vertexOfPoint } = pointsOf(mesh);
    // By a vertex of each point.
    for (const id of ids) expect([...vertexOfPoint]).toContain(id);
    expect(found[0].message).toMatch(/thumb-phalanx-distal.* pulls/);
  });
  it('a bone listed twice', () => {
    const spoilt = planted((row, vertex) =>
      vertex === 5 ? [[row[0][0], row[0][1] / 2], [row[0][0], row[0][1] / 2], ...row.slice(1)] : row,
    );
    expect(told(spoilt).map(({ check, count }) => [check, count])).toEqual([['doubled-bones', 1]]);
  });
  it('a single point that goes with the wrist', () => {
    const tip = pointsPulled(hand, joints[jointOf('middle-finger-phalanx-distal')], 0.99, 1)[0].ids;
    const { pointOfVertex } = pointsOf(mesh);
    const point = pointOfVertex[tip[4]];
    const spoilt = planted((row, vertex) =>
      pointOfVertex[vertex] === point ? [[jointOf('wrist'), 1]] : row,
    );
    expect(told(spoilt).map(({ check }) => check)).toContain('odd-points');
  });
});

describe('whose every point is', () => {
  it('is the bone that has most of it, with how much', () => {
    const deckhand = castCharacter('deckhand-clean.glb');
    for (const [node, owners] of ownersOf(deckhand)) {
      const { mesh, skin } = deckhand.nodes[node];
      for (let vertex = 0; vertex < owners.length; vertex += 37) {
        const [first] = entriesOf(deckhand.meshes[mesh].influences!, vertex);
        expect(Math.floor(owners[vertex]) - 1).toBe(deckhand.skins[skin].joints[first.joint]);
        expect(owners[vertex] % 1).toBeCloseTo(Math.min(0.999, first.weight), 3);
      }
    }
  });
});

describe('who pulls what is chosen', () => {
  it('adds up to the whole, and points pulled between two weights are just those', () => {
    const deckhand = castCharacter('deckhand-clean.glb');
    const node = deckhand.nodes.findIndex(({ name }) => name === 'body');
    const ids = new Uint32Array(200).map((_, i) => i * 20);
    const { points, pulls } = pullsOf(deckhand, [{ node, ids }]);
    expect(points).toBeGreaterThan(100);
    expect(pulls.reduce((sum, { mean }) => sum + mean, 0)).toBeCloseTo(1, 4);
    const head = deckhand.nodes.findIndex(({ name }) => name === 'head');
    const some = pointsPulled(deckhand, head, 0.2, 0.6);
    for (const { node: own, ids: found } of some) {
      const told = pullsOf(deckhand, [{ node: own, ids: found }]).pulls.find(({ bone }) => bone === head)!;
      expect(told.most).toBeLessThanOrEqual(0.6 + 1e-6);
      expect(told.mean).toBeGreaterThanOrEqual(0.2 - 1e-6);
    }
    expect(pointsPulled(deckhand, node, 0, 1)).toEqual([]);
  });
});
