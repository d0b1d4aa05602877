/**
 * The checks of the skeleton room over figures in any naming habit: what is not there is not reported, what
 * is, is.
 */
import { HABITS } from '@/bench/match/habits';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { type Skeleton, characterOfSkeleton } from '@/core/anatomy/skeleton';
import { restWorld } from '@/core/character/hierarchy';
import { type Character, node } from '@/core/character/model';
import { inverseOr } from '@/core/geometry/matrix';
import { audit } from '@/core/house/audit';
import { BRIEFS } from '@/core/house/briefs';
import { meshFrom } from './support/build';

/** A skeleton with a small triangle bound to every bone, so that all of them carry weight. */
function withTriangles(skeleton: Skeleton): Character {
  const bare = characterOfSkeleton(skeleton);
  const joints = bare.nodes.flatMap((node, i) => (node.kind === 'bone' ? [i] : []));
  const world = restWorld(bare.nodes);
  const corners = joints.flatMap((j) => {
    const [x, y, z] = world.slice(j * 16 + 12, j * 16 + 15);
    return [
      [x, y, z],
      [x + 0.01, y, z],
      [x, y + 0.01, z],
    ];
  });
  const mesh = meshFrom(
    corners,
    joints.map((_, k) => [k * 3, k * 3 + 1, k * 3 + 2]),
  );
  const count = corners.length;
  const influences = {
    offsets: Uint32Array.from({ length: count + 1 }, (_, i) => i),
    joint: Uint16Array.from({ length: count }, (_, i) => Math.floor(i / 3)),
    weight: new Float32Array(count).fill(1),
  };
  const inverseBinds = new Float64Array(joints.length * 16);
  joints.forEach((j, k) => inverseBinds.set(inverseOr(world, j * 16), k * 16));
  return {
    ...bare,
    meshes: [{ ...mesh, influences }],
    skins: [{ name: '', joints, inverseBinds }],
    nodes: [...bare.nodes, node({ name: 'body', kind: 'mesh', mesh: 0, skin: 0 })],
  };
}

const said = (character: Character) =>
  audit(character, BRIEFS[0])
    .filter((finding) => finding.room === 'skeleton')
    .map((finding) => finding.message);

/**
 * What such figures do have: they stand anywhere, on axes of their own, are called otherwise than the brief wants, some
 * have many bones, and their joints are shaken a little any way.
 */
const TRUE_OF_THEM =
  /lies .* from the origin|flesh of .* goes on|skeleton” (is|are) missing|skeleton” (is|are) there cannot be told|do not follow the convention|the brief allows|stands elsewhere than the mirror image|were not held against|do not lie along their|about another axis than|leans \d\.\d° against the way/;

const renamed = (skeleton: Skeleton, name: (name: string, i: number) => string): Skeleton => ({
  ...skeleton,
  bones: skeleton.bones.map((bone, i) => ({ ...bone, name: name(bone.name, i) })),
});

const speaking = HABITS.filter((habit) => habit.speaks === 'known');

it('reports nothing that is not there, in any habit, of people and beasts', () => {
  const random = makeRandom(12);
  for (const habit of HABITS)
    for (const kind of ['human', 'dog', 'bird'] as const)
      for (const stance of ['T', 'seated'] as const) {
        const { skeleton, told } = makeFigure(random, kind, habit, { stance });
        const wrong = said(withTriangles(skeleton)).filter((word) => !TRUE_OF_THEM.test(word));
        expect([told, wrong]).toEqual([told, []]);
      }
});

it('reports a bone that lacks its other side, whatever language the sides are in', () => {
  const random = makeRandom(13);
  let found = 0;
  for (const habit of speaking) {
    const { skeleton, roles } = makeFigure(random, 'human', habit, { plain: true });
    const gone = roles.findIndex((role) => role === 'foot 1 right');
    const left = roles.findIndex((role) => role === 'foot 1 left');
    // Its fellow on the right is called something else altogether.
    const otherSkeleton = renamed(skeleton, (name, i) => (i === gone ? 'zzq' : name));
    const messages = said(withTriangles(otherSkeleton));
    const lacks = messages.find((message) => message.includes('lacks the other side'));
    if (lacks?.includes(`“${skeleton.bones[left].name}”`)) found++;
  }
  expect(found).toBeGreaterThan(0.9 * speaking.length);
});

it('reports what a copy left on a name, and not the numbers of a chain', () => {
  const random = makeRandom(14);
  for (const habit of speaking) {
    const { skeleton, roles } = makeFigure(random, 'human', habit, { plain: true });
    const hand = roles.findIndex((role) => role === 'hand 1 left');
    const otherSkeleton = renamed(skeleton, (name, i) => (i === hand ? `${name}.001` : name));
    const copied = said(withTriangles(otherSkeleton)).find((word) => word.includes('leftover'));
    expect([habit.id, copied]).toEqual([
      habit.id,
      expect.stringContaining(`“${otherSkeleton.bones[hand].name}”`),
    ]);
  }
});
