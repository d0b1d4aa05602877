/** Morph targets: what is shown, measured and written of a mesh whose targets are on. */
import fc from 'fast-check';
import {
  BufferAttribute,
  BufferGeometry,
  KeyframeTrack,
  Mesh as ThreeMesh,
  InterpolateLinear,
  InterpolateDiscrete,
  Vector3,
} from 'three';
import { bodyBox, placedMeshes } from '@/core/character/measure';
import { type Channel, type Character, replaceAt } from '@/core/character/model';
import { morph, morphsAt, shownMesh } from '@/core/character/morphs';
import { effectsOf } from '@/core/house/effects';
import { remedyById } from '@/core/house/registry';
import { briefById } from '@/core/house/briefs';
import { readCharacter, writeCharacter } from '@/core/formats';
import { restWorld } from '@/core/character/hierarchy';
import { placedPoints } from '@/core/character/deform';
import { clipMorphs, clipWorld } from '@/core/motion/pose';
import { meshFrom, tube } from './support/build';
import { randomCharacter, real, seeds } from './support/random';

const floats = (data: Float32Array) => ({ data, size: 3, normalized: false, type: 'VEC3' });
const weightsOf = (minLength: number) => fc.array(real(-1, 1.5), { minLength, maxLength: minLength });

/** The tube with two targets: one lifts every point by 1, one widens it by half. */
function lifted(weights: readonly number[], own?: readonly number[]): Character {
  const character = tube();
  const mesh = character.meshes[0];
  const data = mesh.attributes.POSITION.data as Float32Array;
  const morphs = [
    { attributes: { POSITION: floats(data.map((_, i) => (i % 3 === 1 ? 1 : 0))) } },
    { attributes: { POSITION: floats(data.map((x, i) => (i % 3 === 0 ? 0 : x / 2))) } },
  ];
  return {
    ...character,
    meshes: [{ ...mesh, morphs, morphWeights: weights }],
    nodes: own
      ? replaceAt(character.nodes, new Map([[2, { ...character.nodes[2], morphWeights: own }]]))
      : character.nodes,
  };
}

it('stand where three.js puts them', () =>
  fc.assert(
    fc.property(seeds, weightsOf(3), (seed, weights) => {
      const mesh = randomCharacter(seed).meshes[0];
      const geometry = new BufferGeometry();
      geometry.setAttribute(
        'position',
        new BufferAttribute(mesh.attributes.POSITION.data as Float32Array, 3),
      );
      geometry.morphAttributes.position = mesh.morphs.map(
        (morph) => new BufferAttribute(morph.attributes.POSITION.data as Float32Array, 3),
      );
      geometry.morphTargetsRelative = true;
      const reference = new ThreeMesh(geometry);
      reference.morphTargetInfluences = [...weights];
      const mine = morph(mesh, weights).attributes.POSITION.data;
      const vector = new Vector3();
      let worst = 0;
      for (let i = 0; i < mesh.vertexCount; i++) {
        reference.getVertexPosition(i, vector);
        worst = Math.max(
          worst,
          Math.hypot(vector.x - mine[i * 3], vector.y - mine[i * 3 + 1], vector.z - mine[i * 3 + 2]),
        );
      }
      expect(worst).toBeLessThan(1e-6);
    }),
    { numRuns: 50 },
  ));

it('a node’s own weights go before its mesh’s; without either all are off (glTF 2.0, 3.7.4)', () => {
  expect(morphsAt(lifted([0.2, 0.3]), 2)).toEqual([0.2, 0.3]);
  expect(morphsAt(lifted([0.2, 0.3], [0.9]), 2)).toEqual([0.9, 0.3]);
  expect(
    morphsAt(
      {
        ...lifted([0, 0]),
        meshes: lifted([0, 0]).meshes.map((mesh) => ({ ...mesh, morphWeights: undefined })),
      },
      2,
    ),
  ).toEqual([0, 0]);
  expect(morphsAt(tube(), 0)).toEqual([]);
});

it('that are off cost nothing: the mesh is the same one', () => {
  const character = lifted([0, 0]);
  expect(shownMesh(character, 2)).toBe(character.meshes[0]);
  expect(placedMeshes(character)[0].mesh).toBe(character.meshes[0]);
});

it('that are on are measured, with the skin on top', () => {
  const box = bodyBox(lifted([0.5, 0]))!;
  const wide = bodyBox(lifted([0, 1]))!;
  expect([box.min[1], box.max[1]].map((x) => Number(x.toFixed(5)))).toEqual([0.4, 0.6]);
  expect(wide.max[1]).toBeCloseTo(0.15, 6);
  // Normals go along where a target says how; points without a target for them keep theirs.
  const vertexCount = tube().meshes[0].vertexCount;
  const up = new Float32Array(vertexCount * 3).fill(0).map((_, i) => (i % 3 === 1 ? 1 : 0));
  const mesh = {
    ...meshFrom(
      Array.from({ length: vertexCount }, () => [0, 0, 0]),
      [],
    ),
    morphs: [{ attributes: { NORMAL: floats(new Float32Array(vertexCount * 3).fill(0.5)) } }],
  };
  const turned = morph({ ...mesh, attributes: { ...mesh.attributes, NORMAL: floats(up) } }, [1]);
  expect(Array.from(turned.attributes.NORMAL.data.slice(0, 3))).toEqual([0.5, 1.5, 0.5]);
  expect(turned.attributes.POSITION.data).toEqual(mesh.attributes.POSITION.data);
});

it('set to 0, the step says how far the shape went, and the preview shows it', () => {
  const character = lifted([0.5, 0]);
  const remedy = remedyById('morphs-off')!;
  const brief = briefById('handset')!;
  const after = remedy.apply(character, { node: 2 }, brief);
  expect(bodyBox(after)!.max[1]).toBeCloseTo(0.1, 6);
  const { largestMove, others } = effectsOf(
    character,
    after,
    remedy.promises!(character, { node: 2 }, brief),
  );
  expect(largestMove).toBeCloseTo(0.5, 6);
  expect(others.largest).toBe(0);
  expect(() => remedy.apply(after, { node: 2 }, brief)).toThrow(/off there already/);
  expect(() => remedy.apply(character, { node: 0 }, brief)).toThrow(/no mesh on that node/);
});

describe('under a clip', () => {
  const clip = (channel: Partial<Channel>) => ({
    name: 'c',
    channels: [
      {
        node: 2,
        path: 'weights' as const,
        interpolation: 'LINEAR' as const,
        times: Float32Array.of(0, 1, 3),
        values: Float32Array.of(0, 1, 0.5, 0, 1, -1),
        ...channel,
      },
    ],
  });
  it('go as three.js’ keyframe track has them, linear and stepped', () => {
    for (const [interpolation, theirs] of [
      ['LINEAR', InterpolateLinear],
      ['STEP', InterpolateDiscrete],
    ] as const) {
      const c = clip({ interpolation });
      const track = new KeyframeTrack(
        't.morphTargetInfluences',
        Array.from(c.channels[0].times),
        Array.from(c.channels[0].values),
        theirs,
      );
      const reference = (
        track as unknown as {
          InterpolantFactoryMethodLinear(): { evaluate(time: number): ArrayLike<number> };
          InterpolantFactoryMethodDiscrete(): { evaluate(time: number): ArrayLike<number> };
        }
      )[interpolation === 'LINEAR' ? 'InterpolantFactoryMethodLinear' : 'InterpolantFactoryMethodDiscrete']();
      for (const time of [0, 0.25, 0.999, 1, 1.7, 2.999, 3])
        Array.from(reference.evaluate(time)).forEach((x, k) =>
          expect(clipMorphs(lifted([0, 0]), c, time, 2)[k]).toBeCloseTo(x, 5),
        );
    }
  });
  it('with tangents, four of them are four numbers and no rotation', () => {
    const character = lifted([0, 0]);
    const four = {
      ...character,
      meshes: [
        {
          ...character.meshes[0],
          morphs: [...character.meshes[0].morphs, ...character.meshes[0].morphs],
          morphWeights: [0, 0, 0, 0],
        },
      ],
    };
    const flat = [0, 0, 0, 0];
    const values = Float32Array.of(...flat, 1, 1, 0, 0, ...flat, ...flat, 0, 0.5, 1, 0, ...flat);
    // Closed form: a cubic Hermite with tangents of 0 is halfway at the middle (glTF 2.0, appendix C).
    expect(
      clipMorphs(four, clip({ interpolation: 'CUBICSPLINE', times: Float32Array.of(0, 2), values }), 1, 2),
    ).toEqual([0.5, 0.75, 0.5, 0]);
    expect(
      clipMorphs(
        four,
        clip({ times: Float32Array.of(0, 2), values: Float32Array.of(1, 0, 0, 0, 0, 1, 0, 0) }),
        1,
        2,
      ),
    ).toEqual([0.5, 0.5, 0, 0]);
  });
  it('stay as at rest where the clip leaves them', () =>
    expect(
      clipMorphs(
        lifted([0.2, 0.3]),
        clip({ node: 1, path: 'translation', values: new Float32Array(9) }),
        1,
        2,
      ),
    ).toEqual([0.2, 0.3]));
});

describe('in a static file', () => {
  const points = (character: Character) => Array.from(character.meshes[0].attributes.POSITION.data);
  const sorted = (list: readonly number[]) => {
    const rows = Array.from({ length: list.length / 3 }, (_, i) =>
      list.slice(i * 3, i * 3 + 3).map((x) => Number(x.toFixed(5)) + 0),
    );
    return [...new Set(rows.map(String))].sort();
  };
  it('the points stand as shown at rest, and as a clip shows them', () => {
    const character = lifted([0.5, 0.2]);
    const clip = {
      name: 'c',
      channels: [
        {
          node: 2,
          path: 'weights' as const,
          interpolation: 'LINEAR' as const,
          times: Float32Array.of(0, 1),
          values: Float32Array.of(0, 0, 1, 1),
        },
      ],
    };
    const posed = { ...character, clips: [clip] };
    const rest = readCharacter(
      writeCharacter(posed, 'obj', 'x').files.map((file) => ({ name: file.name, bytes: file.bytes })),
      undefined,
      { unitMetres: 1, upAxis: 'y' },
    );
    expect(sorted(points(rest))).toEqual(sorted(Array.from(placedMeshes(character)[0].points)));
    const at = writeCharacter(posed, 'obj', 'x', {
      pose: { world: clipWorld(posed, clip, 0.5), morphs: (node) => clipMorphs(posed, clip, 0.5, node) },
    });
    const half = readCharacter(
      at.files.map((file) => ({ name: file.name, bytes: file.bytes })),
      undefined,
      { unitMetres: 1, upAxis: 'y' },
    );
    expect(sorted(points(half))).toEqual(
      sorted(
        Array.from(
          placedPoints(
            morph(character.meshes[0], [0.5, 0.5]),
            character.skins[0],
            2,
            restWorld(character.nodes),
          ),
        ),
      ),
    );
    expect(at.notes.join(' ')).toMatch(/those that are on are in the points/);
  });
  it.each(['glb', 'dae'] as const)('%s keeps targets and how far they are on', (format) =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const character = randomCharacter(seed);
        const again = readCharacter(
          writeCharacter(character, format, 'x').files.map((file) => ({
            name: file.name,
            bytes: file.bytes,
          })),
        );
        for (const name of ['body', 'lamp']) {
          const [i, k] = [
            character.nodes.findIndex((node) => node.name === name),
            again.nodes.findIndex((node) => node.name === name),
          ];
          morphsAt(again, k).forEach((morph, index) =>
            expect(morph).toBeCloseTo(morphsAt(character, i)[index], 6),
          );
          const a = placedMeshes(character).find((placed) => placed.node === i)!.points;
          const b = placedMeshes(again).find((placed) => placed.node === k)!.points;
          expect(sorted(Array.from(b)).length).toBe(sorted(Array.from(a)).length);
        }
      }),
      { numRuns: 15 },
    ),
  );
});
