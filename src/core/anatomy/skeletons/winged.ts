/**
 * A skeleton for birds that stand upright: wings for arms, the hock of the leg behind, one bone for the toes. Stands
 * 1.5 m tall with open wings and faces +Z. Bones run along their local +X, hinges turn about local +Z. Places and names
 * were made up for it.
 */
import { type TemplateRow, mirroredRows, skeletonFrom } from '../template';
import { quayOther } from './quay';

const middle: TemplateRow[] = [
  ['root', null, [0, 0, 0]],
  ['pelvis', 'root', [0, 0.7, -0.05]],
  ['spine_1', 'pelvis', [0, 0.8, -0.015]],
  ['spine_2', 'spine_1', [0, 0.93, 0.008]],
  ['neck_1', 'spine_2', [0, 1.065, 0.03]],
  ['neck_2', 'neck_1', [0, 1.15, 0.062]],
  ['neck_3', 'neck_2', [0, 1.25, 0.018]],
  ['head', 'neck_3', [0, 1.345, 0.02]],
  ['jaw', 'head', [0, 1.372, 0.118], [0, 1.36, 0.35]],
  ['tail', 'pelvis', [0, 0.615, -0.13], [0, 0.46, -0.31]],
];

const left: TemplateRow[] = [
  ['collar_lt', 'spine_2', [0.028, 0.99, 0.026]],
  ['wing_upper_lt', 'collar_lt', [0.118, 0.99, -0.004]],
  ['wing_lower_lt', 'wing_upper_lt', [0.318, 1.012, -0.034]],
  ['wing_hand_lt', 'wing_lower_lt', [0.545, 1.03, 0.002]],
  ['wing_end_lt', 'wing_hand_lt', [0.69, 1.028, -0.012]],
  ['feather_1_lt', 'wing_hand_lt', [0.612, 0.992, -0.022], [0.85, 0.77, -0.11]],
  ['feather_2_lt', 'wing_lower_lt', [0.428, 0.972, -0.034], [0.49, 0.69, -0.15]],
  ['feather_3_lt', 'wing_upper_lt', [0.225, 0.95, -0.046], [0.225, 0.72, -0.14]],
  ['leg_upper_lt', 'pelvis', [0.072, 0.685, -0.04]],
  ['leg_lower_lt', 'leg_upper_lt', [0.082, 0.575, 0.042]],
  ['foot_lt', 'leg_lower_lt', [0.084, 0.315, -0.052]],
  ['toe_lt', 'foot_lt', [0.085, 0.03, -0.004], [0.085, 0.01, 0.13]],
];

/** Wings close in their own plane, feathers lift out of it; legs and neck nod about world X. */
const hingeNear = (name: string): [number, number, number] => {
  if (/^(collar|wing|feather)/.test(name)) return [0, -0.4, 0.92];
  return [1, 0, 0];
};

/** What the ferry’s winged crew stands on. */
export const WINGED = skeletonFrom(
  'winged',
  'Winged skeleton',
  [...middle, ...left, ...mirroredRows(left, quayOther)],
  { along: '+x', hinge: 'z' },
  hingeNear,
);
