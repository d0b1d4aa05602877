/** Where weights change against where joints are: planted on every limb of the cast that has loops, and mended by what is offered. */
import { type LoopsAcross, loopsAcrossJoints } from '@/core/anatomy/joint-loops';
import { parentBone } from '@/core/character/hierarchy';
import { type Character, replaceAt } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { briefById } from '@/core/house/briefs';
import { runCheck } from '@/core/house/audit';
import { checkById, remedyById } from '@/core/house/registry';
import { entriesOf, influencesFrom } from '@/core/geometry/influences';
import { ringsOffJoints } from '@/core/rooms/weights/joint-rings';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const check = checkById('joint-rings')!;

/** Both bones of a joint share its loops: half and half so far along the limb from it, over a band as wide as the limb. */
function shifted(character: Character, across: LoopsAcross, by: number): Character {
  const { bone, loops, radius } = across;
  const { node } = loops[0];
  const { mesh: index, skin } = character.nodes[node];
  const mesh = character.meshes[index];
  const { joints } = character.skins[skin];
  const [below, above] = [joints.indexOf(bone), joints.indexOf(parentBone(character.nodes, bone))];
  const { pointOfVertex } = pointsOf(mesh);
  const shareOf = new Map<number, number>();
  for (const { along, vertices } of loops) {
    const share = Math.min(1, Math.max(0, 0.5 + (along - by) / (2 * radius)));
    for (const vertex of vertices) shareOf.set(pointOfVertex[vertex], share);
  }
  const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) => {
    const share = shareOf.get(pointOfVertex[vertex]);
    if (share === undefined)
      return entriesOf(mesh.influences!, vertex).map(({ joint, weight }): [number, number] => [
        joint,
        weight,
      ]);
    const both: [number, number][] = [
      [below, share],
      [above, 1 - share],
    ];
    return both.filter(([, weight]) => weight > 0);
  });
  return {
    ...character,
    meshes: replaceAt(character.meshes, new Map([[index, { ...mesh, influences: influencesFrom(rows) }]])),
  };
}

/** Joints in the middle of limbs whose loops reach a radius to either side: there the band can be planted elsewhere. */
const roomy = (character: Character) =>
  loopsAcrossJoints(character).filter(
    ({ loops, radius, role }) =>
      role !== 'other' &&
      loops.length > 4 &&
      loops[0].along < -1.6 * radius &&
      loops[loops.length - 1].along > 1.6 * radius,
  );

describe.each(['deckhand-clean.glb', 'stoker.dae'])('%s', (file) => {
  const character = castCharacter(file);

  it('has its weights at its joints', () => {
    expect(runCheck(check, character, brief)).toEqual([]);
  });

  it('a band that is moved along a limb is found at that joint, where it lies, and nowhere else', () => {
    const joints = roomy(character);
    expect(joints.map(({ role }) => role).sort()).toEqual(['elbow', 'elbow', 'knee', 'knee']);
    for (const across of joints)
      for (const share of [-0.8, -0.6, 0.6, 0.8]) {
        const by = share * across.radius;
        const found = ringsOffJoints(shifted(character, across, by));
        expect(found.map(({ bone }) => bone)).toEqual([across.bone]);
        expect(found[0].halfAt).toBeCloseTo(by, 3);
        expect(found[0].share).toBeCloseTo(0.5 + (found[0].ring.along - by) / (2 * across.radius), 3);
      }
    // A little beside it is nobody's fault.
    for (const across of joints)
      for (const share of [-0.2, 0, 0.2])
        expect(ringsOffJoints(shifted(character, across, share * across.radius))).toEqual([]);
  });
});

it('is told in words that say where it is half and half', () => {
  const character = castCharacter('deckhand-clean.glb');
  const across = roomy(character).find(({ role }) => role === 'elbow')!;
  const { name } = character.nodes[across.bone];
  const [found] = runCheck(check, shifted(character, across, -0.8 * across.radius), brief);
  expect(found.message).toMatch(
    new RegExp(
      `^At “${name}” the ring of the joint goes 9\\d % with the bone; half and half lies 0\\.0\\d+ m above it, towards the root$`,
    ),
  );
  expect(found.elements[1].ids.length).toBe(new Set(across.loops[0].vertices).size);
});

it('either way out mends it, and the ring is half and half', () => {
  const character = castCharacter('deckhand-clean.glb');
  for (const role of ['elbow', 'knee'] as const) {
    const across = roomy(character).find((joint) => joint.role === role)!;
    const faulty = shifted(character, across, 0.8 * across.radius);
    const [{ remedies }] = runCheck(check, faulty, brief);
    expect(remedies.map(({ id }) => id)).toEqual(['set-band', 'split-between']);
    for (const { id, params } of remedies) {
      const remedy = remedyById(id)!;
      const cast = remedy.params.validateSync(params) as Record<string, unknown>;
      expect(runCheck(check, remedy.apply(faulty, cast, brief), brief)).toEqual([]);
    }
  }
});

it('says nothing of a limb that goes as one with its bone: that is a joint that was missed, or a hard thing', () => {
  const character = castCharacter('deckhand-clean.glb');
  for (const across of roomy(character))
    for (const far of [-100, 100])
      expect(ringsOffJoints(shifted(character, across, far * across.radius))).toEqual([]);
});
