import type { Character } from './model';
import { topDown } from './hierarchy';

/**
 * What every reader guarantees and every remedy keeps. Gives one sentence for each law that is broken; an empty list
 * means that the kernels may run without looking.
 */
export function brokenInvariants(c: Character): string[] {
  const out: string[] = [];
  const say = (s: string) => {
    if (out.length < 50) out.push(s);
  };
  const within = (i: number, n: number) => Number.isInteger(i) && i >= -1 && i < n;

  c.nodes.forEach((n, i) => {
    if (!within(n.parent, c.nodes.length)) say(`node ${i} names parent ${n.parent}`);
    if (!within(n.mesh, c.meshes.length)) say(`node ${i} names mesh ${n.mesh}`);
    if (!within(n.skin, c.skins.length)) say(`node ${i} names skin ${n.skin}`);
    const numbers = n.matrix ?? [...n.translation, ...n.rotation, ...n.scale];
    if (!numbers.every(Number.isFinite)) say(`node ${i} has a number that is not finite`);
  });
  if (c.nodes.every((n) => within(n.parent, c.nodes.length)) && topDown(c.nodes).length !== c.nodes.length)
    say('the nodes hold a cycle');

  c.meshes.forEach((m, i) => {
    const position = m.attributes.POSITION;
    if (!position || !(position.data instanceof Float32Array)) say(`mesh ${i} has no float positions`);
    for (const [name, a] of Object.entries(m.attributes))
      if (a.data.length !== a.size * m.vertexCount)
        say(`mesh ${i}: ${name} holds ${a.data.length} numbers for ${m.vertexCount} vertices`);
    if (m.polygonOffsets[0] !== 0 || m.polygonOffsets[m.polygonOffsets.length - 1] !== m.corners.length)
      say(`mesh ${i}: polygon rows do not cover the corners`);
    for (let p = 1; p < m.polygonOffsets.length; p++)
      if (m.polygonOffsets[p] - m.polygonOffsets[p - 1] < 3) {
        say(`mesh ${i}: polygon ${p - 1} has fewer than three corners`);
        break;
      }
    for (let k = 0; k < m.corners.length; k++)
      if (m.corners[k] >= m.vertexCount) {
        say(`mesh ${i}: corner ${k} names vertex ${m.corners[k]} of ${m.vertexCount}`);
        break;
      }
    const f = m.influences;
    if (f) {
      if (f.offsets.length !== m.vertexCount + 1)
        say(`mesh ${i}: ${f.offsets.length - 1} rows of influences for ${m.vertexCount} vertices`);
      if (
        f.offsets[0] !== 0 ||
        f.offsets[f.offsets.length - 1] !== f.joint.length ||
        f.joint.length !== f.weight.length
      )
        say(`mesh ${i}: influence rows do not cover their entries`);
      for (let v = 1; v < f.offsets.length; v++)
        if (f.offsets[v] < f.offsets[v - 1]) {
          say(`mesh ${i}: influence row ${v - 1} runs backwards`);
          break;
        }
      for (let k = 0; k < f.weight.length; k++)
        if (!Number.isFinite(f.weight[k])) {
          say(`mesh ${i}: weight ${k} is not finite`);
          break;
        }
    }
    let polygons = 0;
    for (const piece of m.pieces) {
      if (piece.vertexStart + piece.vertexCount > m.vertexCount)
        say(`mesh ${i}: a piece runs past the vertices`);
      polygons += piece.polygonCount;
    }
    if (polygons !== m.polygonOffsets.length - 1)
      say(`mesh ${i}: pieces hold ${polygons} of ${m.polygonOffsets.length - 1} polygons`);
  });

  c.skins.forEach((s, i) => {
    if (s.inverseBinds.length !== s.joints.length * 16)
      say(`skin ${i} has ${s.inverseBinds.length / 16} inverse binds for ${s.joints.length} joints`);
    if (new Set(s.joints).size !== s.joints.length) say(`skin ${i} lists a joint twice`);
    for (const j of s.joints) if (j < 0 || j >= c.nodes.length) say(`skin ${i} names joint node ${j}`);
  });
  c.nodes.forEach((n, i) => {
    if (n.mesh < 0 || n.skin < 0) return;
    const f = c.meshes[n.mesh]?.influences;
    const joints = c.skins[n.skin]?.joints.length ?? 0;
    if (f)
      for (let k = 0; k < f.joint.length; k++)
        if (f.joint[k] >= joints) {
          say(`mesh of node ${i} names joint ${f.joint[k]} of ${joints}`);
          break;
        }
  });
  c.clips.forEach((clip, i) =>
    clip.channels.forEach((ch, k) => {
      if (!within(ch.node, c.nodes.length) || ch.node < 0)
        say(`clip ${i} channel ${k} names node ${ch.node}`);
    }),
  );
  return out;
}
