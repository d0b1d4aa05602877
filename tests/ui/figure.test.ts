/**
 * What the stage is given to draw: triangles, edges and normals of true polygons, against three.js and closed
 * forms.
 */
import { BufferAttribute, BufferGeometry, EdgesGeometry, Triangle, Vector3 } from 'three';
import { placedMeshes } from '@/core/character/measure';
import { figureOf, trianglesOf } from '@/ui/worker/figure';
import { meshFrom, tube } from '../core/support/build';
import { castCharacter } from '../core/support/cast';
import { box, figure } from '../core/support/figure';

const stance = { arms: 0, legs: 0, bend: 0 };
/** Area and enclosed volume of triangles over points, by three.js and the divergence theorem. */
function sums(points: ArrayLike<number>, triangles: ArrayLike<number>): { area: number; volume: number } {
  const at = (k: number) =>
    new Vector3(points[triangles[k] * 3], points[triangles[k] * 3 + 1], points[triangles[k] * 3 + 2]);
  let area = 0;
  let volume = 0;
  for (let triangle = 0; triangle < triangles.length; triangle += 3) {
    const [a, b, vector] = [at(triangle), at(triangle + 1), at(triangle + 2)];
    area += new Triangle(a, b, vector).getArea();
    volume += a.dot(b.cross(vector)) / 6;
  }
  return { area, volume };
}

it('a box: twelve triangles, twelve edges, its area and its volume', () => {
  const { points, polygons } = box([0, 0, 0], [2, 3, 4]);
  const mesh = meshFrom(points, polygons);
  const { area, volume } = sums(mesh.attributes.POSITION.data, trianglesOf(mesh));
  expect([area, volume]).toEqual([52, 24]);
  const target = tube();
  const otherMesh = figureOf({
    ...target,
    skins: [],
    meshes: [mesh],
    nodes: [{ ...target.nodes[2], skin: -1 }],
  }).meshes[0];
  expect([
    otherMesh.triangles.length / 3,
    otherMesh.edges.length / 2,
    new Set(otherMesh.polygonOf).size,
  ]).toEqual([12, 12, 6]);
  expect(otherMesh.creases).toBe(12);
  // Every corner of a box leans the same way along its three edges: its normal is the sum of its faces',
  // weighted by area.
  for (let vertex = 0; vertex < 8; vertex++) {
    const n = [0, 1, 2].map(
      (k) => otherMesh.normals[vertex * 3 + k] * Math.sign(points[vertex][k] - [1, 1.5, 2][k]),
    );
    const length = Math.hypot(12, 8, 6);
    [12 / length, 8 / length, 6 / length].forEach((x, k) => expect(n[k]).toBeCloseTo(x, 5));
  }
});

it('sharp and open edges come first: of a tube its two mouths, as three.js finds them', () => {
  const character = tube();
  const mesh = figureOf(character).meshes[0];
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.points, 3));
  geometry.setIndex(new BufferAttribute(mesh.triangles, 1));
  expect(mesh.creases).toBe(32);
  expect(new EdgesGeometry(geometry, 50).getAttribute('position').count / 2).toBe(32);
  for (let entry = 0; entry < mesh.creases; entry++)
    expect([0, 2]).toContain(mesh.points[mesh.edges[entry * 2] * 3]);
  // With four sides to the ring every edge along it is sharp too, and none across.
  const square = tube(4, 5);
  expect([figureOf(square).meshes[0].creases, figureOf(square).meshes[0].edges.length / 2]).toEqual([
    2 * 4 + 4 * 4,
    4 * 4 + 5 * 4,
  ]);
});

it('n-gons become as many triangles as they have corners less two, and keep their edges', () => {
  const ring = Array.from({ length: 7 }, (_, k) => [
    Math.cos((k / 7) * 2 * Math.PI),
    Math.sin((k / 7) * 2 * Math.PI),
    0,
  ]);
  const mesh = meshFrom(ring, [[0, 1, 2, 3, 4, 5, 6]]);
  expect(trianglesOf(mesh).length / 3).toBe(5);
  // Closed form: a regular heptagon of radius 1 has the area 7/2·sin(2π/7).
  expect(sums(mesh.attributes.POSITION.data, trianglesOf(mesh)).area).toBeCloseTo(
    3.5 * Math.sin((2 * Math.PI) / 7),
    6,
  );
});

it.each(['deckhand-clean.glb', 'stoker.dae', 'capstan.glb'])(
  '%s: every polygon is drawn whole, every edge once, every normal has length 1',
  (file) => {
    const character = castCharacter(file);
    const shown = figureOf(character);
    expect(shown.meshes.map((mesh) => mesh.node)).toEqual(
      placedMeshes(character).map((placed) => placed.node),
    );
    for (const otherMesh of shown.meshes) {
      const mesh = character.meshes[character.nodes[otherMesh.node].mesh];
      const polygons = mesh.polygonOffsets.length - 1;
      expect(otherMesh.triangles.length / 3).toBe(mesh.corners.length - 2 * polygons);
      expect(otherMesh.polygonOf.length).toBe(otherMesh.triangles.length / 3);
      expect(new Set(otherMesh.polygonOf).size).toBe(polygons);
      const seen = new Set<string>();
      for (let edge = 0; edge < otherMesh.edges.length; edge += 2)
        seen.add([otherMesh.edges[edge], otherMesh.edges[edge + 1]].sort((a, b) => a - b).join());
      expect(seen.size).toBe(otherMesh.edges.length / 2);
      let worst = 0;
      for (let normal = 0; normal < otherMesh.normals.length; normal += 3) {
        const length = Math.hypot(
          otherMesh.normals[normal],
          otherMesh.normals[normal + 1],
          otherMesh.normals[normal + 2],
        );
        if (length > 0) worst = Math.max(worst, Math.abs(length - 1));
      }
      expect(worst).toBeLessThan(1e-5);
    }
  },
);

it('bones reach from joint to joint; tips go on the way they came; sides are told', () => {
  const character = figure(stance);
  const bones = new Map(figureOf(character).bones.map((bone) => [bone.name, bone]));
  expect(bones.size).toBe(character.nodes.length - 1);
  const arm = bones.get('left upper arm')!;
  const fore = bones.get('left forearm')!;
  const hand = bones.get('left hand')!;
  expect([arm.side, bones.get('right shin')!.side, bones.get('spine')!.side]).toEqual([
    'left',
    'right',
    'middle',
  ]);
  arm.to.forEach((x, k) => expect(x).toBeCloseTo(fore.from[k], 9));
  const way = hand.to.map((x, k) => x - hand.from[k]);
  const before = hand.from.map((x, k) => x - fore.from[k]);
  expect(
    way.reduce((sum, x, k) => sum + x * before[k], 0) / (Math.hypot(...way) * Math.hypot(...before)),
  ).toBeCloseTo(1, 6);
  expect(bones.get('root')!.helper).toBe(true);
  expect(arm.parent).toBe(character.nodes.findIndex((node) => node.name === 'chest'));
});
