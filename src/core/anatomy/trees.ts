/**
 * Parents as open standards give them. `null` marks the root.
 * VRM 1.0 humanoid: VRMHumanBoneParentMap of @pixiv/three-vrm-core (a test holds this table against the
 * package). H-Anim (ISO/IEC 19774), level of articulation one. WebXR Hand Input (W3C): 25 joints, in chains
 * from the wrist.
 */

import { wordTable } from '../character/words';
export type ParentTable = Readonly<Record<string, string | null>>;

const fingersVrm = (side: 'left' | 'right'): ParentTable =>
  Object.fromEntries([
    [`${side}ThumbMetacarpal`, `${side}Hand`],
    [`${side}ThumbProximal`, `${side}ThumbMetacarpal`],
    [`${side}ThumbDistal`, `${side}ThumbProximal`],
    ...['Index', 'Middle', 'Ring', 'Little'].flatMap((file) => [
      [`${side}${file}Proximal`, `${side}Hand`],
      [`${side}${file}Intermediate`, `${side}${file}Proximal`],
      [`${side}${file}Distal`, `${side}${file}Intermediate`],
    ]),
  ]) as ParentTable;

const limbsVrm = (side: 'left' | 'right'): ParentTable => ({
  [`${side}UpperLeg`]: 'hips',
  [`${side}LowerLeg`]: `${side}UpperLeg`,
  [`${side}Foot`]: `${side}LowerLeg`,
  [`${side}Toes`]: `${side}Foot`,
  [`${side}Shoulder`]: 'upperChest',
  [`${side}UpperArm`]: `${side}Shoulder`,
  [`${side}LowerArm`]: `${side}UpperArm`,
  [`${side}Hand`]: `${side}LowerArm`,
  [`${side}Eye`]: 'head',
});

/** Which bone hangs under which, VRM 1.0 (humanoid). */
export const VRM_PARENTS: ParentTable = {
  hips: null,
  spine: 'hips',
  chest: 'spine',
  upperChest: 'chest',
  neck: 'upperChest',
  head: 'neck',
  jaw: 'head',
  ...limbsVrm('left'),
  ...limbsVrm('right'),
  ...fingersVrm('left'),
  ...fingersVrm('right'),
};

/** Which joint hangs under which, ISO/IEC 19774 (H-Anim). */
export const H_ANIM_PARENTS: ParentTable = {
  HumanoidRoot: null,
  sacroiliac: 'HumanoidRoot',
  vl5: 'HumanoidRoot',
  skullbase: 'vl5',
  ...Object.fromEntries(
    ['l', 'r'].flatMap((text) => [
      [`${text}_hip`, 'sacroiliac'],
      [`${text}_knee`, `${text}_hip`],
      [`${text}_ankle`, `${text}_knee`],
      [`${text}_midtarsal`, `${text}_ankle`],
      [`${text}_shoulder`, 'vl5'],
      [`${text}_elbow`, `${text}_shoulder`],
      [`${text}_wrist`, `${text}_elbow`],
    ]),
  ),
};

const chain = (finger: string, joints: readonly string[]): [string, string][] =>
  joints.map((joint, i) => [`${finger}-${joint}`, i === 0 ? 'wrist' : `${finger}-${joints[i - 1]}`]);

/** Which joint hangs under which, WebXR Hand Input. */
export const WEBXR_HAND_PARENTS: ParentTable = {
  wrist: null,
  ...Object.fromEntries([
    ...chain('thumb', ['metacarpal', 'phalanx-proximal', 'phalanx-distal', 'tip']),
    ...['index', 'middle', 'ring', 'pinky'].flatMap((file) =>
      chain(`${file}-finger`, [
        'metacarpal',
        'phalanx-proximal',
        'phalanx-intermediate',
        'phalanx-distal',
        'tip',
      ]),
    ),
  ]),
};

/** The trees that a brief can ask for, by id. */
export const TREES = wordTable<{ title: string; parents: ParentTable }>({
  vrm: { title: 'VRM 1.0 humanoid', parents: VRM_PARENTS },
  'h-anim': { title: 'H-Anim', parents: H_ANIM_PARENTS },
  'webxr-hand': { title: 'WebXR hand', parents: WEBXR_HAND_PARENTS },
});
