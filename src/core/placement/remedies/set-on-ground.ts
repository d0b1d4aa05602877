import { object } from 'yup';
import { type Remedy, RemedyError } from '../../audit/types';
import { bodyBox } from '../../character/measure';
import { inUnit } from '../../audit/brief';
import type { Character } from '../../character/model';

const lowest = (c: Character) => bodyBox(c)?.min[1] ?? 0;

/** Moves the whole character up or down until its lowest point stands on y = 0: every node without a parent goes along, props included. */
export const setOnGround: Remedy = {
  id: 'set-on-ground', room: 'placement', title: 'Set on the ground',
  does: 'The whole character, skeleton and props with it, moves until its lowest point is at height 0.',
  params: object({}),
  preview(character, params, brief) {
    const after = setOnGround.apply(character, params, brief);
    return [
      { label: 'Lowest point', before: inUnit(lowest(character), brief.unit), after: inUnit(lowest(after), brief.unit), unit: brief.unit },
      { label: 'Highest point', before: inUnit(bodyBox(character)?.max[1] ?? 0, brief.unit), after: inUnit(bodyBox(after)?.max[1] ?? 0, brief.unit), unit: brief.unit },
    ];
  },
  apply(character) {
    const gap = lowest(character);
    if (Math.abs(gap) < 1e-9) throw new RemedyError('The lowest point is on the ground already; there is nothing to move.');
    const moves = character.nodes.map((n) => n.parent < 0);
    const nodes = character.nodes.map((n, i) => {
      if (!moves[i]) return n;
      const translation = [n.translation[0], n.translation[1] - gap, n.translation[2]];
      if (!n.matrix) return { ...n, translation };
      const matrix = [...n.matrix];
      matrix[13] -= gap;
      return { ...n, matrix };
    });
    const clips = character.clips.map((clip) => (clip.channels.some((ch) => moves[ch.node] && ch.path === 'translation')
      ? { ...clip, channels: clip.channels.map((ch) => (moves[ch.node] && ch.path === 'translation' ? { ...ch, values: shifted(ch.values, ch.interpolation === 'CUBICSPLINE', gap) } : ch)) }
      : clip));
    return { ...character, nodes, clips };
  },
};

/** Heights of a translation channel lowered by `gap`; the tangents of a cubic spline are left alone. */
function shifted(values: Float32Array, cubic: boolean, gap: number): Float32Array {
  const out = values.slice();
  for (let i = 0; i < out.length / 3; i++) if (!cubic || i % 3 === 1) out[i * 3 + 1] -= gap;
  return out;
}
