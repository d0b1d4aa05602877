import type { Character, Influences, Mesh, SceneNode, Skin } from './model';
import { topDown } from './hierarchy';

/**
 * What every reader guarantees and every remedy keeps. Gives one sentence for each law that is broken; an
 * empty list means that the kernels may run without looking.
 */
export function brokenInvariants(c: Character): string[] {
  const out: string[] = [];
  const say: Say = (sentence) => {
    if (out.length < 50) out.push(sentence);
  };
  c.nodes.forEach((n, i) => sayOfNode(c, n, i, say));
  if (c.nodes.every((n) => within(n.parent, c.nodes.length)) && topDown(c.nodes).length !== c.nodes.length)
    say('the nodes hold a cycle');
  c.meshes.forEach((m, i) => sayOfMesh(m, i, say));
  c.skins.forEach((s, i) => sayOfSkin(c, s, i, say));
  c.clips.forEach((clip, i) =>
    clip.channels.forEach((ch, k) => {
      if (!within(ch.node, c.nodes.length) || ch.node < 0)
        say(`clip ${i} channel ${k} names node ${ch.node}`);
    }),
  );
  return out;
}

type Say = (sentence: string) => void;

const within = (i: number, n: number) => Number.isInteger(i) && i >= -1 && i < n;

function sayOfNode(c: Character, n: SceneNode, i: number, say: Say): void {
  if (!within(n.parent, c.nodes.length)) say(`node ${i} names parent ${n.parent}`);
  if (!within(n.mesh, c.meshes.length)) say(`node ${i} names mesh ${n.mesh}`);
  if (!within(n.skin, c.skins.length)) say(`node ${i} names skin ${n.skin}`);
  const numbers = n.matrix ?? [...n.translation, ...n.rotation, ...n.scale];
  if (!numbers.every(Number.isFinite)) say(`node ${i} has a number that is not finite`);
  const f = n.mesh >= 0 && n.skin >= 0 ? c.meshes[n.mesh]?.influences : null;
  if (!f) return;
  const joints = c.skins[n.skin]?.joints.length ?? 0;
  const beyond = f.joint.findIndex((j) => j >= joints);
  if (beyond >= 0) say(`mesh of node ${i} names joint ${f.joint[beyond]} of ${joints}`);
}

function sayOfMesh(m: Mesh, i: number, say: Say): void {
  const position = m.attributes.POSITION;
  if (!position || !(position.data instanceof Float32Array)) say(`mesh ${i} has no float positions`);
  for (const [name, a] of Object.entries(m.attributes))
    if (a.data.length !== a.size * m.vertexCount)
      say(`mesh ${i}: ${name} holds ${a.data.length} numbers for ${m.vertexCount} vertices`);
  const { polygonOffsets: offsets, corners } = m;
  if (offsets[0] !== 0 || offsets[offsets.length - 1] !== corners.length)
    say(`mesh ${i}: polygon rows do not cover the corners`);
  const thin = offsets.findIndex((end, p) => p > 0 && end - offsets[p - 1] < 3);
  if (thin >= 0) say(`mesh ${i}: polygon ${thin - 1} has fewer than three corners`);
  const beyond = corners.findIndex((v) => v >= m.vertexCount);
  if (beyond >= 0) say(`mesh ${i}: corner ${beyond} names vertex ${corners[beyond]} of ${m.vertexCount}`);
  if (m.influences) sayOfInfluences(m.influences, m.vertexCount, i, say);
  let polygons = 0;
  for (const piece of m.pieces) {
    if (piece.vertexStart + piece.vertexCount > m.vertexCount)
      say(`mesh ${i}: a piece runs past the vertices`);
    polygons += piece.polygonCount;
  }
  if (polygons !== offsets.length - 1)
    say(`mesh ${i}: pieces hold ${polygons} of ${offsets.length - 1} polygons`);
}

function sayOfInfluences(f: Influences, vertexCount: number, i: number, say: Say): void {
  if (f.offsets.length !== vertexCount + 1)
    say(`mesh ${i}: ${f.offsets.length - 1} rows of influences for ${vertexCount} vertices`);
  const last = f.offsets[f.offsets.length - 1];
  if (f.offsets[0] !== 0 || last !== f.joint.length || f.joint.length !== f.weight.length)
    say(`mesh ${i}: influence rows do not cover their entries`);
  const back = f.offsets.findIndex((end, v) => v > 0 && end < f.offsets[v - 1]);
  if (back >= 0) say(`mesh ${i}: influence row ${back - 1} runs backwards`);
  const bad = f.weight.findIndex((w) => !Number.isFinite(w));
  if (bad >= 0) say(`mesh ${i}: weight ${bad} is not finite`);
}

function sayOfSkin(c: Character, s: Skin, i: number, say: Say): void {
  if (s.inverseBinds.length !== s.joints.length * 16)
    say(`skin ${i} has ${s.inverseBinds.length / 16} inverse binds for ${s.joints.length} joints`);
  if (new Set(s.joints).size !== s.joints.length) say(`skin ${i} lists a joint twice`);
  for (const j of s.joints) if (j < 0 || j >= c.nodes.length) say(`skin ${i} names joint node ${j}`);
}
