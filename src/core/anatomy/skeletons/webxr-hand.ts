import { WEBXR_HAND_PARENTS } from '../trees';
import { type TemplateRow, mirroredRows, skeletonFrom } from '../template';

/**
 * The hand of WebXR Hand Input (W3C): 25 joints in chains from the wrist; −Z runs along the bone, as the
 * standard says. Places measured, to a tenth of a millimetre, on the generic left hand of
 * @webxr-input-profiles/assets (MIT).
 */
const places: Readonly<Record<string, readonly [number, number, number]>> = {
  wrist: [-0.0373, 0.056, 0.0081],
  'thumb-metacarpal': [-0.0182, 0.02, -0.0199],
  'thumb-phalanx-proximal': [-0.003, -0.0032, -0.0368],
  'thumb-phalanx-distal': [0.0064, -0.0271, -0.0588],
  'thumb-tip': [0.0116, -0.0357, -0.0698],
  'index-finger-metacarpal': [-0.0318, 0.0196, -0.0014],
  'index-finger-phalanx-proximal': [-0.03, -0.036, -0.0154],
  'index-finger-phalanx-intermediate': [-0.0268, -0.0778, -0.0139],
  'index-finger-phalanx-distal': [-0.0246, -0.1019, -0.0126],
  'index-finger-tip': [-0.0252, -0.1134, -0.0113],
  'middle-finger-metacarpal': [-0.0316, 0.0269, 0.0049],
  'middle-finger-phalanx-proximal': [-0.0348, -0.0357, 0.0064],
  'middle-finger-phalanx-intermediate': [-0.0303, -0.0821, 0.0108],
  'middle-finger-phalanx-distal': [-0.0275, -0.1094, 0.0138],
  'middle-finger-tip': [-0.0286, -0.1214, 0.0154],
  'ring-finger-metacarpal': [-0.0316, 0.029, 0.0164],
  'ring-finger-phalanx-proximal': [-0.0308, -0.0287, 0.0256],
  'ring-finger-phalanx-intermediate': [-0.0264, -0.0703, 0.0349],
  'ring-finger-phalanx-distal': [-0.0232, -0.0959, 0.0413],
  'ring-finger-tip': [-0.0224, -0.1076, 0.0436],
  'pinky-finger-metacarpal': [-0.0279, 0.0219, 0.0311],
  'pinky-finger-phalanx-proximal': [-0.0236, -0.0179, 0.0432],
  'pinky-finger-phalanx-intermediate': [-0.0192, -0.0514, 0.0505],
  'pinky-finger-phalanx-distal': [-0.0164, -0.0704, 0.0571],
  'pinky-finger-tip': [-0.0156, -0.0819, 0.06],
};

const left: TemplateRow[] = Object.entries(WEBXR_HAND_PARENTS).map(([name, parent]) => [
  name,
  parent,
  places[name],
]);
const axes = { along: '-z', hinge: 'x' } as const;

/** The joints of the WebXR Hand Input module, of a left hand. */
export const WEBXR_HAND_LEFT = skeletonFrom('webxr-hand-left', 'WebXR hand, left', left, axes, () => [
  0, 0, 1,
]);

/** The same of a right hand. */
export const WEBXR_HAND_RIGHT = skeletonFrom(
  'webxr-hand-right',
  'WebXR hand, right',
  mirroredRows(left, (name) => name),
  axes,
  () => [0, 0, 1],
);
