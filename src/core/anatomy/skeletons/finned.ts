/**
 * A skeleton for fish and whales: a trunk that goes on into the tail, flukes, breast and back fins. 1.5 m long, faces +Z.
 * Bones run along their local +X, hinges turn about local +Z. Places and names were made up for it.
 */
import { type TemplateRow, mirroredRows, skeletonFrom } from '../template';
import { quayOther } from './quay';

const middle: TemplateRow[] = [
  ['root', null, [0, 0, 0]],
  ['pelvis', 'root', [0, 0.3, 0]],
  ['spine_1', 'pelvis', [0, 0.3, 0.14]],
  ['spine_2', 'spine_1', [0, 0.305, 0.28]],
  ['head', 'spine_2', [0, 0.31, 0.44], [0, 0.3, 0.74]],
  ['jaw', 'head', [0, 0.25, 0.5], [0, 0.24, 0.68]],
  ['back_fin', 'pelvis', [0, 0.46, -0.02], [0, 0.6, -0.1]],
  ['tail_1', 'pelvis', [0, 0.3, -0.16]],
  ['tail_2', 'tail_1', [0, 0.295, -0.33]],
  ['tail_3', 'tail_2', [0, 0.29, -0.48]],
  ['tail_4', 'tail_3', [0, 0.29, -0.62]],
];

const left: TemplateRow[] = [
  ['fin_1_lt', 'spine_2', [0.11, 0.24, 0.26]],
  ['fin_2_lt', 'fin_1_lt', [0.22, 0.2, 0.19], [0.34, 0.17, 0.1]],
  ['fluke_lt', 'tail_4', [0.03, 0.29, -0.66], [0.22, 0.29, -0.75]],
];

/** A swimming beast of our own. */
export const FINNED = skeletonFrom(
  'finned',
  'Finned skeleton',
  [...middle, ...left, ...mirroredRows(left, quayOther)],
  { along: '+x', hinge: 'z' },
);
