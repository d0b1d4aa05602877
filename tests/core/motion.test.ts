import fc from 'fast-check';
import { AnimationMixer, Matrix4, type Object3D } from 'three';
import { briefSchema } from '@/core/house/brief';
import { inUnit, lengthText } from '@/core/contracts/units';
import { BRIEFS } from '@/core/house/briefs';
import { childrenOf, restWorld } from '@/core/character/hierarchy';
import { characterHeight } from '@/core/character/measure';
import { type Channel, type Character, type SceneNode, node } from '@/core/character/model';
import { quatAbout, quatSlerp } from '@/core/geometry/matrix';
import { looksTheSame, portrait } from '@/core/rooms/docket/portrait';
import { writeGlb } from '@/core/formats/gltf/write';
import { clipSeconds, clipWorld, posedWorld, transferPose } from '@/core/motion/pose';
import { suggest } from '@/core/anatomy/suggest';
import { remap } from '@/core/rooms/crosswalk/remap';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { castCharacter } from './support/cast';
import { tube } from './support/build';
import { threeGltf } from './support/three-play';
import { validate } from './support/validator';
import { real } from './support/random';

/** World matrices of the named nodes under a clip at a time, by three.js' AnimationMixer. */
async function reference(bytes: Uint8Array, time: number): Promise<Map<string, Matrix4>> {
  const gltf = await threeGltf(bytes);
  const mixer = new AnimationMixer(gltf.scene);
  mixer.clipAction(gltf.animations[0]).play();
  mixer.setTime(time);
  gltf.scene.updateMatrixWorld(true);
  const out = new Map<string, Matrix4>();
  gltf.scene.traverse((o: Object3D) => {
    out.set(o.name, o.matrixWorld.clone());
  });
  return out;
}

describe('clips', () => {
  const character = castCharacter('deckhand-clean.glb');
  it.each([0, 0.31, 0.5, 1.27, 1.99])(
    'at %d s every bone stands where three.js’ AnimationMixer puts it',
    async (time) => {
      const theirs = await reference(writeGlb(character).bytes, time);
      const mine = clipWorld(character, character.clips[0], time);
      let compared = 0;
      character.nodes.forEach((node, i) => {
        const matrix = theirs.get(node.name);
        if (!matrix || node.kind !== 'bone') return;
        compared++;
        for (let k = 0; k < 16; k++)
          expect(Math.abs(matrix.elements[k] - mine[i * 16 + k])).toBeLessThan(2e-5);
      });
      expect(compared).toBe(character.nodes.filter((node) => node.kind === 'bone').length);
      expect(compared).toBeGreaterThan(89);
    },
  );
  it('lasts as long as its last key, and holds its ends', () => {
    expect(clipSeconds(character.clips[0])).toBe(2);
    expect(Array.from(clipWorld(character, character.clips[0], -5))).toEqual(
      Array.from(clipWorld(character, character.clips[0], 0)),
    );
    expect(Array.from(clipWorld(character, character.clips[0], 99))).toEqual(
      Array.from(clipWorld(character, character.clips[0], 2)),
    );
  });
  it('steps where it says so, and a cubic spline with flat tangents eases (glTF 2.0, appendix C)', () => {
    const target = tube();
    const channel = (interpolation: Channel['interpolation'], values: number[]): Channel => ({
      node: 1,
      path: 'translation',
      interpolation,
      times: Float32Array.from([0, 1]),
      values: Float32Array.from(values),
    });
    const x = (channel: Channel, time: number) =>
      clipWorld(target, { name: '', channels: [channel] }, time)[1 * 16 + 12];
    expect(x(channel('STEP', [1, 0, 0, 3, 0, 0]), 0.99)).toBe(1);
    expect(x(channel('LINEAR', [1, 0, 0, 3, 0, 0]), 0.25)).toBeCloseTo(1.5, 6);
    const flat = channel('CUBICSPLINE', [0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 3, 0, 0, 0, 0, 0]);
    // Hermite basis with zero tangents: 3u² − 2u³.
    for (const time of [0.1, 0.5, 0.8])
      expect(x(flat, time)).toBeCloseTo(1 + 2 * (3 * time * time - 2 * time ** 3), 5);
  });
  it('slerps along the shorter arc', () => {
    fc.assert(
      fc.property(real(-3, 3), real(0, 1), (angle, share) => {
        const rotation = quatSlerp([0, 0, 0, 1], quatAbout([0, 1, 0], angle), share);
        expect(Math.abs(rotation[3])).toBeCloseTo(Math.abs(Math.cos((angle * share) / 2)), 5);
      }),
    );
  });
  it('is carried over to another skeleton: its own bones there stand as three.js says, the lantern hand included', async () => {
    const delivered = castCharacter('deckhand.glb');
    const moved = remap(delivered, QUAY, suggest(skeletonOf(delivered), QUAY), { limit: 4 });
    const [before, after] = [
      await reference(writeGlb(delivered).bytes, 0.75),
      await reference(writeGlb(moved.character).bytes, 0.75),
    ];
    for (const [was, is] of [
      ['R_hand', 'hand_rt'],
      ['head_c', 'head'],
      ['L_shin', 'leg_lower_lt'],
      ['hips_c', 'pelvis'],
    ]) {
      const [a, b] = [before.get(was)!.elements, after.get(is)!.elements];
      expect(Math.hypot(a[12] - b[12], a[13] - b[13], a[14] - b[14])).toBeLessThan(1e-3);
    }
  });
});

describe('the same motion on another rig', () => {
  it('is the identity between a rig and itself, in any pose', () => {
    const character = castCharacter('quay-skeleton.glb');
    const self = Int32Array.from(character.nodes, (_, i) => i);
    fc.assert(
      fc.property(fc.array(real(-2, 2), { minLength: 8, maxLength: 8 }), (angles) => {
        const world = posedWorld(
          character,
          new Map(
            angles.map((angle, k) => [
              (k * 7 + 1) % character.nodes.length,
              quatAbout(
                [
                  [1, 0, 0],
                  [0, 1, 0],
                  [0, 0, 1],
                ][k % 3],
                angle,
              ),
            ]),
          ),
        );
        const moved = transferPose(character, world, character, self);
        for (let i = 0; i < world.length; i++) expect(Math.abs(world[i] - moved[i])).toBeLessThan(1e-9);
      }),
      { numRuns: 20 },
    );
  });
  it('follows the parent where a bone has no partner', () => {
    const target = tube();
    const tip = {
      ...target,
      nodes: [...target.nodes, node({ name: 'tip', kind: 'bone', parent: 1, translation: [0.5, 0, 0] })],
    };
    const world = posedWorld(target, new Map([[0, quatAbout([0, 0, 1], Math.PI / 2)]]));
    const moved = transferPose(target, world, tip, Int32Array.from([0, 1, 2, -1]));
    expect([moved[3 * 16 + 12], moved[3 * 16 + 13]].map((x) => Math.round(x * 1e6) / 1e6 + 0)).toEqual([
      0, 1.5,
    ]);
  });
});

describe('measures', () => {
  it('sixty inches at 120 % are seventy-two, about 183 cm (common practice)', () => {
    expect(inUnit(60 * 0.0254 * 1.2, 'in')).toBeCloseTo(72, 9);
    expect(inUnit(72 * 0.0254, 'cm')).toBeCloseTo(182.88, 9);
    expect(lengthText(1.7623, 'm')).toBe('1.762 m');
    expect(lengthText(0.0005, 'mm')).toBe('0.5 mm');
  });
  it('the briefs that come with the house are sound, and their numbers are what they say', () => {
    for (const brief of BRIEFS) expect(briefSchema.validateSync(brief)).toEqual(brief);
    expect(BRIEFS.map((brief) => [brief.id, brief.limits.influences, brief.limits.bones])).toEqual([
      ['handset', 4, 75],
      ['desktop', 8, 256],
      ['deck-gear', 1, 64],
      ['winged', 4, 75],
      ['headset', 4, 25],
      ['plain-handset', 4, 75],
      ['plain-desk', 8, 256],
      ['plain-hands', 4, 25],
      ['plain-machine', 1, 64],
      ['gltf', 64, 65_535],
    ]);
    expect(() => briefSchema.validateSync({ ...BRIEFS[0], limits: { influences: 0, bones: 1 } })).toThrow();
  });
  it('the Deckhand stands as tall as his skeleton’s stature says, sole to crown', () =>
    expect(characterHeight(castCharacter('deckhand-clean.glb'))).toBeCloseTo(1.78, 1));
  it('children and world matrices agree with the parents', () => {
    const character = castCharacter('deckhand.glb');
    childrenOf(character.nodes).forEach((list, index) =>
      list.forEach((k) => expect(character.nodes[k].parent).toBe(index)),
    );
    expect(restWorld(character.nodes)).toBe(restWorld(character.nodes));
  });
});

describe('writing', () => {
  it.each(['u8', 'u16'] as const)(
    'integer weights (%s) sum exactly, whatever was limited: no word from the validator',
    async (weights) => {
      const character = castCharacter('deckhand-clean.glb');
      const small = {
        ...character,
        meshes: character.meshes.map((mesh) =>
          mesh.influences ? { ...mesh, influenceStorage: { weights, joints: 'u8' as const, sets: 1 } } : mesh,
        ),
      };
      expect(await validate(writeGlb(small).bytes)).toEqual([]);
    },
  );
  it('says when it had to scale sums, and leaves them when told to', () => {
    const character = castCharacter('fine/deckhand.glb');
    expect(writeGlb(character).notes.join()).toMatch(/342 vertices of “boots” did not sum to 1/);
    expect(writeGlb(character, { keepSums: true }).notes.join()).not.toMatch(/did not sum to 1/);
  });
});

describe('the portrait', () => {
  it('shows the figure in the middle on a clear ground, and a skeleton as lines', () => {
    for (const file of ['deckhand.glb', 'quay-skeleton.glb']) {
      const otherPortrait = portrait(castCharacter(file), 90, 110);
      const covered = (x0: number, x1: number) => {
        let n = 0;
        for (let y = 0; y < 110; y++)
          for (let x = x0; x < x1; x++) if (otherPortrait.pixels[(y * 90 + x) * 4 + 3] > 0) n++;
        return n;
      };
      expect(covered(30, 60)).toBeGreaterThan(file.startsWith('deck') ? 600 : 40);
      expect(otherPortrait.pixels[3]).toBe(0);
    }
  });

  /** How many of the bytes of two portraits differ by more than the rounding of a colour at an edge. */
  const difference = (a: Character, b: Character) => {
    const [p, q] = [portrait(a, 180, 220).pixels, portrait(b, 180, 220).pixels];
    return p.reduce((most, x, i) => most + (Math.abs(x - q[i]) > 24 ? 1 : 0), 0);
  };
  const deckhand = castCharacter('deckhand-clean.glb');
  const underRoots = (change: (node: SceneNode) => Partial<SceneNode>): Character => ({
    ...deckhand,
    nodes: deckhand.nodes.map((node) => (node.parent < 0 ? { ...node, ...change(node) } : node)),
  });
  it.each<[string, Character]>([
    [
      'renamed',
      {
        ...deckhand,
        name: 'other',
        nodes: deckhand.nodes.map((node) => ({ ...node, name: `${node.name}_` })),
      },
    ],
    [
      'moved',
      underRoots((node) => ({
        translation: [node.translation[0] + 3, node.translation[1] - 0.7, node.translation[2]],
      })),
    ],
    [
      'of another size',
      underRoots((node) => ({
        translation: node.translation.map((x) => x * 2.5) as unknown as SceneNode['translation'],
        scale: node.scale.map((x) => x * 2.5) as unknown as SceneNode['scale'],
      })),
    ],
  ])('is not drawn again of a figure %s, and would be the same', (_, other) => {
    expect(looksTheSame(deckhand, other)).toBe(true);
    expect(difference(deckhand, other)).toBeLessThan(60);
  });
  it.each<[string, Character]>([
    ['turned', underRoots(() => ({ rotation: quatAbout([0, 1, 0], 0.5) }))],
    [
      'with a limb bent',
      {
        ...deckhand,
        nodes: deckhand.nodes.map((node) =>
          node.name === 'arm_upper_lt' ? { ...node, rotation: quatAbout([0, 0, 1], 0.6) } : node,
        ),
      },
    ],
    [
      'in another colour',
      {
        ...deckhand,
        carried: {
          ...deckhand.carried,
          materials: deckhand.carried.materials.map((material) => ({
            ...material,
            pbrMetallicRoughness: { baseColorFactor: [0.9, 0.1, 0.1, 1] },
          })),
        },
      },
    ],
    [
      'without a mesh',
      {
        ...deckhand,
        nodes: deckhand.nodes.map((node) => (node.name === 'body' ? { ...node, mesh: -1 } : node)),
      },
    ],
  ])('is drawn again of a figure %s, and is another', (_, other) => {
    expect(looksTheSame(deckhand, other)).toBe(false);
    expect(difference(deckhand, other)).toBeGreaterThan(60);
  });
  it('of a skeleton alone is always drawn again', () => {
    const bones = castCharacter('quay-skeleton.glb');
    expect(looksTheSame(bones, { ...bones })).toBe(false);
  });
});
