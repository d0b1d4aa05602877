import { type Check, type Finding, finding, theNode } from '../../audit/types';
import { ancestorsOf, restLocals, restWorld } from '../../character/hierarchy';
import { decompose } from '../../geometry/matrix';

const text = (s: readonly number[]) => s.map((x) => Number(x.toPrecision(4))).join(' × ');

/**
 * Scale left on nodes: even, uneven, negative; and the inherited case, where a node reads 1 but an ancestor is scaled.
 * An ancestor's scale is reported on the ancestor, with what inherits it; the node itself stays quiet.
 */
export const nodeScaleCheck: Check = {
  id: 'node-scale', room: 'placement', title: 'Scale left on nodes',
  why: 'Engines apply a left-over scale twice, or to the children only; bound meshes come out at another size than they were seen, and a mirrored node turns its faces inside out.',
  run(character, brief) {
    const locals = restLocals(character.nodes), world = restWorld(character.nodes);
    const tolerance = brief.scaleTolerance;
    const off = (s: readonly number[]) => s.some((x) => Math.abs(x - 1) > tolerance);
    const scales = character.nodes.map((_, i) => decompose(locals, i * 16));
    const out: Finding[] = [];
    character.nodes.forEach((n, i) => {
      const { scale, shear } = scales[i];
      if (!off(scale) && shear <= tolerance) return;
      const mirrored = scale[0] * scale[1] * scale[2] < 0;
      const even = Math.max(...scale.map(Math.abs)) - Math.min(...scale.map(Math.abs)) <= tolerance;
      const heirs = character.nodes.flatMap((m, k) => (k !== i && !off(scales[k].scale) && ancestorsOf(character.nodes, k).includes(i) && (m.mesh >= 0 || m.kind === 'bone') ? [k] : []));
      const kind = shear > tolerance ? 'sheared' : mirrored ? 'mirrored by a negative scale' : even ? 'scaled evenly' : 'scaled unevenly';
      const worldScale = decompose(world, i * 16).scale;
      out.push(finding(nodeScaleCheck, {
        gravity: 'stops', subject: theNode(character, i), unit: '×',
        message: `“${n.name || `node ${i}`}” is ${kind}${heirs.length > 0 ? `, and ${heirs.length} node${heirs.length === 1 ? '' : 's'} below ${heirs.length === 1 ? 'reads' : 'read'} 1 but ${heirs.length === 1 ? 'inherits' : 'inherit'} it` : ''}`,
        measured: text(scale), expected: '1 × 1 × 1',
        evidence: [
          { label: 'Scale of its own', now: text(scale), brief: '1 × 1 × 1', unit: '×' },
          { label: 'Scale in the world', now: text(worldScale), brief: '1 × 1 × 1', unit: '×' },
          ...(shear > tolerance ? [{ label: 'Shear', now: shear, brief: 0, unit: '' }] : []),
          ...(heirs.length > 0 ? [{ label: 'Nodes that inherit it', now: heirs.length, brief: 0, unit: 'nodes' }] : []),
        ],
        elements: [{ kind: 'node', node: i, ids: Uint32Array.from([i, ...heirs]) }],
        count: 1 + heirs.length,
        remedies: [{ id: 'bake-scale', params: { node: i } }],
      }));
    });
    return out;
  },
};
