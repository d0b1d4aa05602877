import { VRM_PARENTS } from '../trees';
import { type TemplateRow, skeletonFrom } from '../template';

/**
 * The VRM 1.0 humanoid: names and parents from the open specification, places for a figure of stature H from
 * the segment lengths of Drillis & Contini 1966 (as tabulated in Winter), values from memory; hands and feet
 * by common practice. T-pose, facing +Z.
 */
const H = 1.7;
const shoulderX = 0.129 * H * 0.82;
const armY = 0.818 * H;
const elbowX = shoulderX + 0.186 * H;
const wristX = elbowX + 0.146 * H;
const hipX = 0.191 * H * 0.28;

const left: Readonly<Record<string, readonly [number, number, number]>> = {
  Eye: [0.032, 0.936 * H, 0.085],
  Shoulder: [0.03, armY, 0],
  UpperArm: [shoulderX, armY, 0],
  LowerArm: [elbowX, armY, -0.004],
  Hand: [wristX, armY, 0],
  UpperLeg: [hipX, 0.53 * H, 0],
  LowerLeg: [hipX, 0.285 * H, 0.004],
  Foot: [hipX, 0.039 * H, -0.01],
  Toes: [hipX, 0.012 * H, 0.1],
  ThumbMetacarpal: [wristX + 0.025, armY - 0.01, 0.025],
  ThumbProximal: [wristX + 0.058, armY - 0.015, 0.05],
  ThumbDistal: [wristX + 0.085, armY - 0.02, 0.065],
};
const fingers: Readonly<Record<string, readonly [number, number]>> = {
  Index: [0.09, 0.025],
  Middle: [0.094, 0.002],
  Ring: [0.09, -0.02],
  Little: [0.08, -0.04],
};
const middle: Readonly<Record<string, readonly [number, number, number]>> = {
  hips: [0, 0.55 * H, 0],
  spine: [0, 0.6 * H, -0.005],
  chest: [0, 0.67 * H, -0.01],
  upperChest: [0, 0.75 * H, -0.015],
  neck: [0, 0.84 * H, -0.01],
  head: [0, 0.89 * H, 0],
  jaw: [0, 0.9 * H, 0.02],
};

function placeOf(name: string): readonly [number, number, number] {
  if (middle[name]) return middle[name];
  const side = name.startsWith('left') ? 1 : -1;
  const rest = name.replace(/^(left|right)/, '');
  let place = left[rest];
  if (!place) {
    const [, finger, joint] = /^(Index|Middle|Ring|Little)(Proximal|Intermediate|Distal)$/.exec(rest) ?? [];
    const [reach, z] = fingers[finger];
    place = [
      wristX + reach + { Proximal: 0, Intermediate: 0.04, Distal: 0.065 }[joint as 'Proximal'],
      armY,
      z,
    ];
  }
  return [place[0] * side, place[1], place[2]];
}

const order = (name: string): number => {
  let difference = 0;
  for (let path = VRM_PARENTS[name]; path; path = VRM_PARENTS[path]) difference++;
  return difference;
};
const rows: TemplateRow[] = Object.keys(VRM_PARENTS)
  .sort((a, b) => order(a) - order(b))
  .map((name) => [name, VRM_PARENTS[name], placeOf(name)]);

/** The humanoid bones of VRM 1.0 in the places of an average figure in T-pose. */
export const VRM_HUMANOID = skeletonFrom('vrm', 'VRM 1.0 humanoid', rows, null);
