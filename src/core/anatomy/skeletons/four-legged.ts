/**
 * A skeleton for beasts that walk on four legs: three bones from collar to wrist in front, three from hip to hock behind,
 * toes, a tail. Stands 1.1 m tall at the head, 0.75 m at the back, and faces +Z. Bones run along their local +X, hinges turn
 * about local +Z. Places and names were made up for it.
 */
import { type TemplateRow, mirroredRows, skeletonFrom } from '../template';
import { quayOther } from './quay';

const middle: TemplateRow[] = [
  ['root', null, [0, 0, 0]],
  ['pelvis', 'root', [0, 0.74, -0.42]],
  ['spine_1', 'pelvis', [0, 0.76, -0.26]],
  ['spine_2', 'spine_1', [0, 0.755, -0.06]],
  ['spine_3', 'spine_2', [0, 0.745, 0.14]],
  ['neck_1', 'spine_3', [0, 0.77, 0.34]],
  ['neck_2', 'neck_1', [0, 0.9, 0.46]],
  ['head', 'neck_2', [0, 1.02, 0.56], [0, 0.98, 0.8]],
  ['jaw', 'head', [0, 0.965, 0.6], [0, 0.92, 0.76]],
  ['tail_1', 'pelvis', [0, 0.74, -0.56]],
  ['tail_2', 'tail_1', [0, 0.64, -0.65]],
  ['tail_3', 'tail_2', [0, 0.5, -0.7], [0, 0.36, -0.72]],
];

const left: TemplateRow[] = [
  ['front_collar_lt', 'spine_3', [0.07, 0.73, 0.24]],
  ['front_upper_lt', 'front_collar_lt', [0.1, 0.58, 0.33]],
  ['front_lower_lt', 'front_upper_lt', [0.1, 0.42, 0.22]],
  ['front_foot_lt', 'front_lower_lt', [0.1, 0.17, 0.25]],
  ['front_toe_lt', 'front_foot_lt', [0.1, 0.04, 0.25], [0.1, 0.01, 0.32]],
  ['hind_upper_lt', 'pelvis', [0.1, 0.66, -0.42]],
  ['hind_lower_lt', 'hind_upper_lt', [0.11, 0.44, -0.33]],
  ['hind_foot_lt', 'hind_lower_lt', [0.11, 0.24, -0.52]],
  ['hind_toe_lt', 'hind_foot_lt', [0.11, 0.04, -0.48], [0.11, 0.01, -0.41]],
  ['ear_lt', 'head', [0.05, 1.08, 0.55], [0.08, 1.16, 0.54]],
];

/** A walking beast of our own. */
export const FOUR_LEGGED = skeletonFrom(
  'four-legged',
  'Four-legged skeleton',
  [...middle, ...left, ...mirroredRows(left, quayOther)],
  { along: '+x', hinge: 'z' },
);
