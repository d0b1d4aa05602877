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

const T = { arms: 0, legs: 0, bend: 0 };
/** Area and enclosed volume of triangles over points, by three.js and the divergence theorem. */
function sums(points: ArrayLike<number>, triangles: ArrayLike<number>): { area: number; volume: number } {
  const at = (k: number) =>
    new Vector3(points[triangles[k] * 3], points[triangles[k] * 3 + 1], points[triangles[k] * 3 + 2]);
  let area = 0;
  let volume = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [at(t), at(t + 1), at(t + 2)];
    area += new Triangle(a, b, c).getArea();
    volume += a.dot(b.cross(c)) / 6;
  }
  return { area, volume };
}

it('a box: twelve triangles, twelve edges, its area and its volume', () => {
  const { points, polygons } = box([0, 0, 0], [2, 3, 4]);
  const mesh = meshFrom(points, polygons);
  const { area, volume } = sums(mesh.attributes.POSITION.data, trianglesOf(mesh));
  expect([area, volume]).toEqual([52, 24]);
  const t = tube();
  const f = figureOf({ ...t, skins: [], meshes: [mesh], nodes: [{ ...t.nodes[2], skin: -1 }] }).meshes[0];
  expect([f.triangles.length / 3, f.edges.length / 2, new Set(f.polygonOf).size]).toEqual([12, 12, 6]);
  expect(f.creases).toBe(12);
  // Every corner of a box leans the same way along its three edges: its normal is the sum of its faces',
  // weighted by area.
  for (let v = 0; v < 8; v++) {
    const n = [0, 1, 2].map((k) => f.normals[v * 3 + k] * Math.sign(points[v][k] - [1, 1.5, 2][k]));
    const l = Math.hypot(12, 8, 6);
    [12 / l, 8 / l, 6 / l].forEach((x, k) => expect(n[k]).toBeCloseTo(x, 5));
  }
});

it('sharp and open edges come first: of a tube its two mouths, as three.js finds them', () => {
  const c = tube();
  const f = figureOf(c).meshes[0];
  const g = new BufferGeometry();
  g.setAttribute('position', new BufferAttribute(f.points, 3));
  g.setIndex(new BufferAttribute(f.triangles, 1));
  expect(f.creases).toBe(32);
  expect(new EdgesGeometry(g, 50).getAttribute('position').count / 2).toBe(32);
  for (let e = 0; e < f.creases; e++) expect([0, 2]).toContain(f.points[f.edges[e * 2] * 3]);
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
    const c = castCharacter(file);
    const shown = figureOf(c);
    expect(shown.meshes.map((m) => m.node)).toEqual(placedMeshes(c).map((p) => p.node));
    for (const m of shown.meshes) {
      const mesh = c.meshes[c.nodes[m.node].mesh];
      const polygons = mesh.polygonOffsets.length - 1;
      expect(m.triangles.length / 3).toBe(mesh.corners.length - 2 * polygons);
      expect(m.polygonOf.length).toBe(m.triangles.length / 3);
      expect(new Set(m.polygonOf).size).toBe(polygons);
      const seen = new Set<string>();
      for (let e = 0; e < m.edges.length; e += 2)
        seen.add([m.edges[e], m.edges[e + 1]].sort((a, b) => a - b).join());
      expect(seen.size).toBe(m.edges.length / 2);
      let worst = 0;
      for (let v = 0; v < m.normals.length; v += 3) {
        const l = Math.hypot(m.normals[v], m.normals[v + 1], m.normals[v + 2]);
        if (l > 0) worst = Math.max(worst, Math.abs(l - 1));
      }
      expect(worst).toBeLessThan(1e-5);
    }
  },
);

it('bones reach from joint to joint; tips go on the way they came; sides are told', () => {
  const c = figure(T);
  const bones = new Map(figureOf(c).bones.map((b) => [b.name, b]));
  expect(bones.size).toBe(c.nodes.length - 1);
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
    way.reduce((s, x, k) => s + x * before[k], 0) / (Math.hypot(...way) * Math.hypot(...before)),
  ).toBeCloseTo(1, 6);
  expect(bones.get('root')!.helper).toBe(true);
  expect(arm.parent).toBe(c.nodes.findIndex((n) => n.name === 'chest'));
});
