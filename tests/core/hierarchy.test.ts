/**
 * The forest of nodes: worlds against three.js' scene graph; hanging elsewhere, taking out, and what must
 * stay.
 */
import fc from 'fast-check';
import { Matrix4, Object3D } from 'three';
import { brokenInvariants } from '@/core/character/invariants';
import {
  ancestorsOf,
  bonesOf,
  branchOf,
  childrenOf,
  localOf,
  parentBone,
  restWorld,
  topDown,
  weightOfNodes,
} from '@/core/character/hierarchy';
import { type Character, type SceneNode, node, replaceAt } from '@/core/character/model';
import { hungUnder, rebasedChannel, withLocal } from '@/core/character/rehang';
import { withRoots, withoutNodes } from '@/core/character/remove';
import { findNamed, namedIn } from '@/core/character/named';
import { clipWorld } from '@/core/motion/pose';
import { composeMatrix, times } from '@/core/geometry/matrix';
import { leftoverData, sceneOf } from '@/core/rooms/placement/scene';
import { tube } from './support/build';
import { dice, randomCharacter, seeds } from './support/random';

const apart = (a: ArrayLike<number>, b: ArrayLike<number>) => {
  let d = 0;
  for (let i = 0; i < a.length; i++) d = Math.max(d, Math.abs(a[i] - b[i]));
  return d;
};
const worldOf = (character: Character, i: number) => restWorld(character.nodes).subarray(i * 16, i * 16 + 16);

describe('world matrices', () => {
  it('are three.js’ world matrices', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const { nodes } = randomCharacter(seed);
        const objects = nodes.map((node) => {
          const object3D = new Object3D();
          object3D.position.fromArray([...node.translation]);
          object3D.quaternion.fromArray([...node.rotation]);
          object3D.scale.fromArray([...node.scale]);
          return object3D;
        });
        nodes.forEach((node, i) => {
          if (node.parent >= 0) objects[node.parent].add(objects[i]);
        });
        nodes.forEach((node, i) => {
          if (node.parent < 0) objects[i].updateMatrixWorld(true);
        });
        const world = restWorld(nodes);
        objects.forEach((otherObject, i) =>
          expect(apart(otherObject.matrixWorld.elements, world.subarray(i * 16, i * 16 + 16))).toBeLessThan(
            1e-9,
          ),
        );
      }),
      { numRuns: 60 },
    ));
  it('a node that states a matrix stands by that', () => {
    const matrix = new Matrix4().makeShear(0.1, 0.2, 0, 0, 0, 0).elements;
    const nodes = [
      node({ name: 'a', translation: [1, 2, 3] }),
      node({ name: 'b', parent: 0, matrix, translation: [9, 9, 9] }),
    ];
    expect(Array.from(localOf(nodes[1]))).toEqual(Array.from(matrix));
    expect(
      apart(restWorld(nodes).subarray(16), times(composeMatrix([1, 2, 3], [0, 0, 0, 1], [1, 1, 1]), matrix)),
    ).toBe(0);
  });
  it('are computed once for a list', () => {
    const { nodes } = tube();
    expect(restWorld(nodes)).toBe(restWorld(nodes));
  });
});

describe('the tree', () => {
  it('every parent comes before its children, each node once; what turns in a circle is left out', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const { nodes } = randomCharacter(seed);
        const order = topDown(nodes);
        const at = new Map(order.map((n, k) => [n, k]));
        expect(order.slice().sort((a, b) => a - b)).toEqual(nodes.map((_, i) => i));
        nodes.forEach((node, i) => {
          if (node.parent >= 0) expect(at.get(node.parent)!).toBeLessThan(at.get(i)!);
        });
        const circle = [
          ...nodes,
          node({ name: 'x', parent: nodes.length + 1 }),
          node({ name: 'y', parent: nodes.length }),
        ];
        expect(topDown(circle).length).toBe(nodes.length);
      }),
      { numRuns: 40 },
    ));
  it('ancestors, children and branches agree', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const { nodes } = randomCharacter(seed);
        const children = childrenOf(nodes);
        nodes.forEach((node, i) => {
          const up = ancestorsOf(nodes, i);
          expect(up[0] ?? -1).toBe(node.parent);
          if (node.parent >= 0) expect(children[node.parent]).toContain(i);
          const below = branchOf(nodes, [i]);
          nodes.forEach((_, k) => expect(below[k]).toBe(k === i || ancestorsOf(nodes, k).includes(i)));
        });
      }),
      { numRuns: 20 },
    ));
  it('the bone above passes over what is no bone', () => {
    const nodes = [
      node({ name: 'a', kind: 'bone' }),
      node({ name: 'holder', parent: 0 }),
      node({ name: 'b', kind: 'bone', parent: 1 }),
      node({ name: 'c', kind: 'mesh', parent: 2 }),
    ];
    expect([parentBone(nodes, 2), parentBone(nodes, 3), parentBone(nodes, 0)]).toEqual([0, 2, -1]);
  });
  it('weights by node add up to what the meshes carry, each as often as it is shown', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const character = randomCharacter(seed);
        const total = character.nodes.reduce(
          (most, node) =>
            most +
            (node.skin >= 0 ? character.meshes[node.mesh].influences!.weight.reduce((a, b) => a + b, 0) : 0),
          0,
        );
        expect(weightOfNodes(character).reduce((a, b) => a + b, 0)).toBeCloseTo(total, 4);
        bonesOf(character).forEach((bone) =>
          expect(weightOfNodes(character)[bone]).toBeGreaterThanOrEqual(0),
        );
      }),
      { numRuns: 20 },
    ));
  it('a thing is found again by its name and which of that name it is', () =>
    fc.assert(
      fc.property(fc.array(fc.constantFrom('a', 'b', '', '__proto__'), { minLength: 1 }), (names) => {
        names.forEach((_, i) => expect(findNamed(names, namedIn(names, i))).toBe(i));
        expect(findNamed(names, { name: 'a', nth: names.length })).toBe(-1);
      }),
    ));
});

describe('hanging elsewhere', () => {
  it('keeps the node where it was, scale, mirror and shear included', () =>
    fc.assert(
      fc.property(seeds, seeds, (seed, draw) => {
        const character = randomCharacter(seed);
        const otherDraw = dice(draw);
        const i = otherDraw.below(character.nodes.length);
        const below = branchOf(character.nodes, [i]);
        const others = character.nodes.flatMap((_, k) => (below[k] ? [] : [k]));
        const to = otherDraw.chance(0.2) || others.length === 0 ? -1 : others[otherDraw.below(others.length)];
        const nodes = replaceAt(character.nodes, new Map([[i, hungUnder(character, i, to)]]));
        expect(nodes[i].parent).toBe(to);
        expect(apart(restWorld(nodes), restWorld(character.nodes))).toBeLessThan(1e-6);
      }),
      { numRuns: 80 },
    ));
  it('a local matrix becomes move, turn and scale where those express it, and stays a matrix where they do not', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const draw = dice(seed);
        const otherNode = node({ name: 'n' });
        const plain = composeMatrix(
          [draw.between(-1, 1), 0, 2],
          [0, Math.SQRT1_2, 0, Math.SQRT1_2],
          [draw.between(0.5, 2), draw.between(0.5, 2), -draw.between(0.5, 2)],
        );
        expect(withLocal(otherNode, plain).matrix).toBeUndefined();
        expect(apart(localOf(withLocal(otherNode, plain)), plain)).toBeLessThan(1e-9);
        const sheared = times(plain, new Matrix4().makeShear(0.3, 0, 0, 0, 0, 0).elements);
        expect(withLocal(otherNode, sheared).matrix).toBeDefined();
        expect(apart(localOf(withLocal(otherNode, sheared)), sheared)).toBeLessThan(1e-9);
      }),
      { numRuns: 40 },
    ));
  it('a clip’s channel carried to another rest does what it did relative to it', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const character = randomCharacter(seed);
        fc.pre(character.clips.length > 0);
        for (const ch of character.clips[0].channels) {
          const before = character.nodes[ch.node];
          const after: SceneNode = {
            ...before,
            translation: [1, 2, 3],
            rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2],
          };
          const there = rebasedChannel(ch, before, after);
          const back = rebasedChannel(there, after, before);
          expect(apart(back.values, ch.values)).toBeLessThan(1e-5);
          expect(rebasedChannel({ ...ch, path: 'scale' }, before, after).values).toBe(ch.values);
        }
      }),
      { numRuns: 30 },
    ));
});

describe('taking out', () => {
  it('leaves a sound character, in which everything else stands and moves as before', () =>
    fc.assert(
      fc.property(seeds, seeds, (seed, draw) => {
        const otherCharacter = randomCharacter(seed);
        const otherDraw = dice(draw);
        const top = otherDraw.below(otherCharacter.nodes.length);
        const gone = new Set(
          otherCharacter.nodes.flatMap((_, i) =>
            branchOf(otherCharacter.nodes, [top])[i] &&
            !otherCharacter.skins.some((skin) => skin.joints.includes(i))
              ? [i]
              : [],
          ),
        );
        // What hangs on a node that goes must go too.
        const all = new Set(
          [...gone].filter((i) =>
            otherCharacter.nodes.every(
              (node, k) =>
                !ancestorsOf(otherCharacter.nodes, k).includes(i) || gone.has(k) || node === undefined,
            ),
          ),
        );
        const { character, newOf } = withoutNodes(otherCharacter, all);
        expect(brokenInvariants(character)).toEqual([]);
        expect(character.nodes.length).toBe(otherCharacter.nodes.length - all.size);
        otherCharacter.nodes.forEach((node, i) => {
          if (all.has(i)) {
            expect(newOf[i]).toBe(-1);
            return;
          }
          expect(character.nodes[newOf[i]].name).toBe(node.name);
          expect(apart(worldOf(character, newOf[i]), worldOf(otherCharacter, i))).toBe(0);
          if (node.mesh >= 0)
            expect(character.meshes[character.nodes[newOf[i]].mesh]).toBe(otherCharacter.meshes[node.mesh]);
        });
        for (const [k, clip] of otherCharacter.clips.entries()) {
          const before = clipWorld(otherCharacter, clip, 0.7);
          const after = clipWorld(character, character.clips[k], 0.7);
          otherCharacter.nodes.forEach((_, i) => {
            if (newOf[i] >= 0)
              expect(
                apart(
                  after.subarray(newOf[i] * 16, newOf[i] * 16 + 16),
                  before.subarray(i * 16, i * 16 + 16),
                ),
              ).toBe(0);
          });
        }
        expect(character.carried.scenes[0].roots.map((root) => character.nodes[root].parent)).toEqual(
          character.carried.scenes[0].roots.map(() => -1),
        );
      }),
      { numRuns: 60 },
    ));
  it('nothing taken out is nothing changed, and the lists stay the same ones', () => {
    const otherCharacter = randomCharacter(5);
    const { character } = withoutNodes(otherCharacter, new Set());
    expect(character.nodes.every((node, i) => node === otherCharacter.nodes[i])).toBe(true);
    expect([
      character.meshes === otherCharacter.meshes,
      character.skins[0] === otherCharacter.skins[0],
      character.clips[0] === otherCharacter.clips[0],
    ]).toEqual([true, true, true]);
  });
  it('the scene’s roots follow what hangs where', () => {
    const character = tube();
    const moved = withRoots({
      ...character,
      nodes: replaceAt(
        character.nodes,
        new Map([
          [1, { ...character.nodes[1], parent: -1 }],
          [2, { ...character.nodes[2], parent: 0 }],
        ]),
      ),
    });
    expect(moved.carried.scenes[0].roots).toEqual([0, 1]);
    expect(withRoots({ ...character, carried: { ...character.carried, scenes: [] } }).carried.scenes).toEqual(
      [],
    );
  });
});

describe('what belongs to a character', () => {
  const hidden = { KHR_node_visibility: { visible: false } };
  const c = (...more: SceneNode[]): Character => {
    const target = tube();
    return { ...target, nodes: [...target.nodes, ...more] };
  };
  const of = (character: Character) => {
    const group = sceneOf(character);
    return character.nodes.slice(3).map((_, k) => group.strays.get(k + 3) ?? group.of[k + 3]);
  };
  it('body, bones and props, and holders of those', () => {
    expect(sceneOf(tube()).of).toEqual(['bone', 'bone', 'body']);
    expect(
      of(c(node({ name: 'grip', parent: 1 }), node({ name: 'hook', kind: 'mesh', mesh: 0, parent: 3 }))),
    ).toEqual(['holder', 'prop']);
  });
  it('strays are told by what they are, from the leaves up', () => {
    expect(
      of(
        c(
          node({ name: 'a' }),
          node({ name: 'b', parent: 3 }),
          node({ name: 'lens', kind: 'camera', camera: 0 }),
          node({ name: 'lamp', kind: 'light' }),
        ),
      ),
    ).toEqual(['empty node', 'empty node', 'camera', 'light']);
    expect(of(c(node({ name: 'holds a lens' }), node({ name: 'lens', kind: 'camera', parent: 3 })))).toEqual([
      'empty node',
      'camera',
    ]);
    // What counts, counts for all that hold it, whatever lies between.
    expect(
      of(
        c(
          node({ name: 'holds a lens' }),
          node({ name: 'lens', kind: 'camera', parent: 3 }),
          node({ name: 'crate', kind: 'mesh', mesh: 0, parent: 4 }),
        ),
      ),
    ).toEqual(['holder', 'camera', 'prop']);
  });
  it('what is hidden is a leftover, and all that hangs under it', () => {
    expect(
      of(
        c(
          node({ name: 'old', extensions: hidden }),
          node({ name: 'crate', kind: 'mesh', mesh: 0, parent: 3 }),
        ),
      ),
    ).toEqual(['hidden leftover', 'hidden leftover']);
    expect(
      of(
        c(
          node({
            name: 'shown',
            extensions: { KHR_node_visibility: { visible: true } },
            kind: 'mesh',
            mesh: 0,
          }),
        ),
      ),
    ).toEqual(['prop']);
  });
  it('a mesh without polygons shows nothing', () => {
    const target = tube();
    const bare = {
      ...target.meshes[0],
      polygonOffsets: Uint32Array.of(0),
      corners: new Uint32Array(0),
      pieces: [],
      influences: null,
    };
    expect(
      of({
        ...target,
        meshes: [...target.meshes, bare],
        nodes: [...target.nodes, node({ name: 'bare', kind: 'mesh', mesh: 1 })],
      }),
    ).toEqual(['mesh without polygons']);
  });
  it('data of a bind that is gone: skins, meshes and weights that nothing uses', () => {
    const target = tube();
    expect(leftoverData(target)).toEqual({ skins: [], meshes: [], influences: [] });
    expect(
      leftoverData({
        ...target,
        nodes: replaceAt(target.nodes, new Map([[2, { ...target.nodes[2], skin: -1 }]])),
      }),
    ).toEqual({ skins: [0], meshes: [], influences: [0] });
    expect(leftoverData({ ...target, nodes: target.nodes.slice(0, 2) })).toEqual({
      skins: [0],
      meshes: [0],
      influences: [],
    });
  });
});
