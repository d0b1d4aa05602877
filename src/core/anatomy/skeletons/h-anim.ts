/**
 * H-Anim (ISO/IEC 19774), level of articulation one: 18 joints by the standard's names and parents, in the places of a
 * figure of average build. Segment lengths after Drillis & Contini 1966 (as tabulated in Winter), values from memory.
 * T-pose, facing +Z; the standard's joints stand square to the world.
 */
import { type TemplateRow, skeletonFrom } from '../template';
import { H_ANIM_PARENTS } from '../trees';

const H = 1.7;
const shoulderX = 0.129 * H * 0.82;
const armY = 0.818 * H;

const MIDDLE: Readonly<Record<string, readonly [number, number, number]>> = {
  HumanoidRoot: [0, 0.55 * H, 0],
  sacroiliac: [0, 0.545 * H, -0.005],
  vl5: [0, 0.6 * H, -0.005],
  skullbase: [0, 0.89 * H, 0],
};
const LEFT: Readonly<Record<string, readonly [number, number, number]>> = {
  hip: [0.191 * H * 0.28, 0.53 * H, 0],
  knee: [0.191 * H * 0.28, 0.285 * H, 0.004],
  ankle: [0.191 * H * 0.28, 0.039 * H, -0.01],
  midtarsal: [0.191 * H * 0.28, 0.02 * H, 0.06],
  shoulder: [shoulderX, armY, 0],
  elbow: [shoulderX + 0.186 * H, armY, -0.004],
  wrist: [shoulderX + (0.186 + 0.146) * H, armY, 0],
};

function placeOf(name: string): readonly [number, number, number] {
  if (MIDDLE[name]) return MIDDLE[name];
  const [side, joint] = [name.slice(0, 1), name.slice(2)];
  const [x, y, z] = LEFT[joint];
  return [side === 'l' ? x : -x, y, z];
}

const rows: TemplateRow[] = Object.entries(H_ANIM_PARENTS).map(([name, parent]) => [
  name,
  parent,
  placeOf(name),
]);

/** The joints of H-Anim’s first level of articulation. */
export const H_ANIM = skeletonFrom('h-anim', 'H-Anim, level one', rows, null);
