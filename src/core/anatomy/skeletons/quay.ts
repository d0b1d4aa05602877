import { type TemplateRow, mirroredRows, skeletonFrom } from '../template';

/**
 * The Quay skeleton: the house standard that the night ferry's game wants. Figure of 1.76 m in a T-pose,
 * facing +Z. Bones run along their local +X, hinges turn about local +Z; elbows and knees lean a little the
 * way they bend.
 */
const finger = (
  name: string,
  x: number,
  y: number,
  z: number,
  lengths: readonly number[],
  slope: readonly [number, number, number],
): TemplateRow[] => {
  let at: [number, number, number] = [x, y, z];
  return lengths.map((length, i) => {
    const row: TemplateRow = [`${name}_${i + 1}_lt`, i === 0 ? 'hand_lt' : `${name}_${i}_lt`, at];
    at = [at[0] + slope[0] * length, at[1] + slope[1] * length, at[2] + slope[2] * length];
    return row;
  });
};

const left: TemplateRow[] = [
  ['collar_lt', 'spine_5', [0.03, 1.432, -0.002]],
  ['arm_upper_lt', 'collar_lt', [0.182, 1.438, -0.018]],
  ['arm_twist_lt', 'arm_upper_lt', [0.33, 1.437, -0.022]],
  ['arm_lower_lt', 'arm_upper_lt', [0.478, 1.436, -0.026]],
  ['wrist_twist_lt', 'arm_lower_lt', [0.61, 1.435, -0.019]],
  ['hand_lt', 'arm_lower_lt', [0.735, 1.434, -0.012]],
  ...finger('thumb', 0.764, 1.424, 0.022, [0.042, 0.032, 0.026], [0.78, -0.16, 0.6]),
  ...finger('point', 0.826, 1.438, 0.022, [0.04, 0.025, 0.02], [0.998, -0.03, 0.06]),
  ...finger('long', 0.831, 1.44, -0.001, [0.044, 0.028, 0.021], [1, -0.03, 0]),
  ...finger('ring', 0.826, 1.438, -0.023, [0.04, 0.026, 0.02], [0.998, -0.03, -0.05]),
  ...finger('small', 0.815, 1.433, -0.043, [0.032, 0.02, 0.017], [0.995, -0.03, -0.09]),
  ['leg_upper_lt', 'pelvis', [0.093, 0.915, -0.004]],
  ['leg_lower_lt', 'leg_upper_lt', [0.098, 0.502, 0.012]],
  ['foot_lt', 'leg_lower_lt', [0.102, 0.088, -0.028]],
  ['toe_lt', 'foot_lt', [0.11, 0.026, 0.096]],
];

const middle: TemplateRow[] = [
  ['root', null, [0, 0, 0]],
  ['pelvis', 'root', [0, 0.955, -0.005]],
  ['spine_1', 'pelvis', [0, 1.03, -0.012]],
  ['spine_2', 'spine_1', [0, 1.115, -0.02]],
  ['spine_3', 'spine_2', [0, 1.2, -0.026]],
  ['spine_4', 'spine_3', [0, 1.285, -0.03]],
  ['spine_5', 'spine_4', [0, 1.37, -0.032]],
  ['neck_1', 'spine_5', [0, 1.475, -0.026]],
  ['neck_2', 'neck_1', [0, 1.52, -0.016]],
  ['head', 'neck_2', [0, 1.565, -0.004]],
];

/** The name on the right of a name on the left. */
export const quayOther = (name: string): string => name.replace(/_lt$/, '_rt');

/**
 * A bend about world X lifts knees and nods the head, one about world Y closes elbows, one about world Z
 * curls fingers.
 */
const hingeNear = (name: string): [number, number, number] => {
  if (/^(arm|wrist|hand|collar)/.test(name)) return [0, 1, 0];
  if (/^(point|long|ring|small)/.test(name)) return [0, 0, 1];
  if (/^thumb/.test(name)) return [0, 1, 0];
  return [1, 0, 0];
};

/** The skeleton that the house’s own briefs ask for. Its places and names were made up for it. */
export const QUAY = skeletonFrom(
  'quay',
  'Quay skeleton',
  [...middle, ...left, ...mirroredRows(left, quayOther)],
  { along: '+x', hinge: 'z' },
  hingeNear,
);
