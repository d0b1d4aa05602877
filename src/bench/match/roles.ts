/** Figures made from roles: what each bone is, where its joint lies in a T-pose, and what it hangs under. */

/** A bone by what it is. Metres; the figure looks along +Z, y is up, its left is +x. */
export interface RoleBone {
  /** What it is, the same for every figure of a kind: “lowerarm left”. Null for what others need not have. */
  readonly role: string | null;
  readonly part: string;
  readonly side: 'left' | 'right' | 'middle';
  /** Number along its chain, from 1. */
  readonly number: number;
  readonly parent: number;
  readonly place: readonly [number, number, number];
}

type Spec = readonly [part: string, number, parent: string, x: number, y: number, z: number];

const finger = (
  name: string,
  x: number,
  y: number,
  z: number,
  lengths: readonly number[],
  toward: readonly number[],
): Spec[] => {
  let at = [x, y, z];
  return lengths.map((length, k): Spec => {
    const row: Spec = [name, k + 1, k === 0 ? 'hand 1' : `${name} ${k}`, at[0], at[1], at[2]];
    at = at.map((value, index) => value + toward[index] * length);
    return row;
  });
};

const HUMAN_SIDE: readonly Spec[] = [
  ['collar', 1, 'spine 3', 0.028, 1.41, 0.012],
  ['upperarm', 1, 'collar 1', 0.176, 1.425, -0.012],
  ['lowerarm', 1, 'upperarm 1', 0.455, 1.424, -0.02],
  ['hand', 1, 'lowerarm 1', 0.705, 1.423, -0.008],
  ...finger('thumb', 0.732, 1.412, 0.026, [0.044, 0.034, 0.028], [0.76, -0.18, 0.62]),
  ...finger('index', 0.8, 1.427, 0.027, [0.043, 0.027, 0.022], [0.99, -0.03, 0.08]),
  ...finger('long', 0.804, 1.429, 0.003, [0.047, 0.03, 0.023], [1, -0.02, 0]),
  ...finger('ring', 0.798, 1.427, -0.02, [0.043, 0.028, 0.022], [0.99, -0.03, -0.06]),
  ...finger('little', 0.785, 1.422, -0.041, [0.034, 0.021, 0.018], [0.98, -0.05, -0.12]),
  ['upperleg', 1, 'pelvis 1', 0.09, 0.93, 0],
  ['lowerleg', 1, 'upperleg 1', 0.094, 0.5, 0.012],
  ['foot', 1, 'lowerleg 1', 0.098, 0.085, -0.022],
  ['toe', 1, 'foot 1', 0.104, 0.022, 0.112],
];

const HUMAN_MIDDLE: readonly Spec[] = [
  ['pelvis', 1, '', 0, 0.965, 0],
  ['spine', 1, 'pelvis 1', 0, 1.05, -0.01],
  ['spine', 2, 'spine 1', 0, 1.17, -0.022],
  ['spine', 3, 'spine 2', 0, 1.29, -0.026],
  ['neck', 1, 'spine 3', 0, 1.47, -0.018],
  ['head', 1, 'neck 1', 0, 1.56, 0.004],
];

const DOG_SIDE: readonly Spec[] = [
  ['collar', 1, 'spine 4', 0.05, 0.62, 0.34],
  ['upperarm', 1, 'collar 1', 0.09, 0.5, 0.42],
  ['lowerarm', 1, 'upperarm 1', 0.09, 0.36, 0.33],
  ['hand', 1, 'lowerarm 1', 0.09, 0.1, 0.36],
  ['digits', 1, 'hand 1', 0.09, 0.03, 0.41],
  ['upperleg', 1, 'pelvis 1', 0.07, 0.56, -0.3],
  ['lowerleg', 1, 'upperleg 1', 0.08, 0.36, -0.2],
  ['foot', 1, 'lowerleg 1', 0.08, 0.17, -0.37],
  ['toe', 1, 'foot 1', 0.08, 0.03, -0.3],
  ['ear', 1, 'head 1', 0.05, 0.9, 0.62],
];

const DOG_MIDDLE: readonly Spec[] = [
  ['pelvis', 1, '', 0, 0.62, -0.26],
  ['spine', 1, 'pelvis 1', 0, 0.66, -0.14],
  ['spine', 2, 'spine 1', 0, 0.68, 0.0],
  ['spine', 3, 'spine 2', 0, 0.69, 0.14],
  ['spine', 4, 'spine 3', 0, 0.68, 0.28],
  ['neck', 1, 'spine 4', 0, 0.72, 0.42],
  ['neck', 2, 'neck 1', 0, 0.8, 0.5],
  ['head', 1, 'neck 2', 0, 0.86, 0.58],
  ['jaw', 1, 'head 1', 0, 0.82, 0.63],
  ['tail', 1, 'pelvis 1', 0, 0.63, -0.36],
  ['tail', 2, 'tail 1', 0, 0.6, -0.48],
  ['tail', 3, 'tail 2', 0, 0.56, -0.59],
  ['tail', 4, 'tail 3', 0, 0.54, -0.69],
];

const BIRD_SIDE: readonly Spec[] = [
  ['collar', 1, 'spine 3', 0.03, 0.9, 0.06],
  ['wing', 1, 'collar 1', 0.09, 0.92, 0.03],
  ['wing', 2, 'wing 1', 0.34, 0.96, -0.06],
  ['wing', 3, 'wing 2', 0.66, 0.94, 0.02],
  ['wing', 4, 'wing 3', 0.95, 0.92, -0.04],
  ['upperleg', 1, 'pelvis 1', 0.06, 0.66, -0.02],
  ['lowerleg', 1, 'upperleg 1', 0.07, 0.5, 0.07],
  ['foot', 1, 'lowerleg 1', 0.07, 0.2, -0.02],
  ['toe', 1, 'foot 1', 0.07, 0.02, 0.07],
];

const BIRD_MIDDLE: readonly Spec[] = [
  ['pelvis', 1, '', 0, 0.7, -0.06],
  ['spine', 1, 'pelvis 1', 0, 0.76, -0.02],
  ['spine', 2, 'spine 1', 0, 0.82, 0.02],
  ['spine', 3, 'spine 2', 0, 0.88, 0.06],
  ['neck', 1, 'spine 3', 0, 0.98, 0.12],
  ['neck', 2, 'neck 1', 0, 1.1, 0.15],
  ['neck', 3, 'neck 2', 0, 1.22, 0.16],
  ['head', 1, 'neck 3', 0, 1.33, 0.2],
  ['jaw', 1, 'head 1', 0, 1.32, 0.26],
  ['tail', 1, 'pelvis 1', 0, 0.69, -0.18],
  ['tail', 2, 'tail 1', 0, 0.67, -0.3],
];

/** A leg of four joints in one chain, as cattle have. */
const chainLeg = (name: string, x: number, z: number, hip: number, parent: string): Spec[] => [
  [name, 1, parent, x, hip, z],
  [name, 2, `${name} 1`, x, hip * 0.66, z + 0.05],
  [name, 3, `${name} 2`, x, hip * 0.36, z - 0.06],
  [name, 4, `${name} 3`, x, hip * 0.06, z],
];

/** A row of bones that goes on the same way. */
const row = (
  name: string,
  count: number,
  parent: string,
  from: readonly [number, number, number],
  step: readonly [number, number, number],
): Spec[] =>
  Array.from({ length: count }, (_, k): Spec => [
    name,
    k + 1,
    k === 0 ? parent : `${name} ${k}`,
    from[0] + step[0] * k,
    from[1] + step[1] * k,
    from[2] + step[2] * k,
  ]);

const CATTLE_MIDDLE: readonly Spec[] = [
  ['pelvis', 1, '', 0, 1.15, -0.6],
  ...row('spine', 3, 'pelvis 1', [0, 1.2, -0.35], [0, 0.01, 0.35]),
  ...row('neck', 2, 'spine 3', [0, 1.3, 0.6], [0, 0.1, 0.2]),
  ['head', 1, 'neck 2', 0, 1.5, 0.95],
  ['jaw', 1, 'head 1', 0, 1.42, 1.05],
  ...row('tail', 3, 'pelvis 1', [0, 1.15, -0.78], [0, -0.2, -0.05]),
];

const CATTLE_SIDE: readonly Spec[] = [
  ...chainLeg('frontleg', 0.18, 0.35, 0.95, 'spine 3'),
  ...chainLeg('hindleg', 0.17, -0.55, 1.0, 'pelvis 1'),
  ['horn', 1, 'head 1', 0.12, 1.62, 0.93],
  ['ear', 1, 'head 1', 0.14, 1.55, 0.9],
];

const ELEPHANT_MIDDLE: readonly Spec[] = [
  ['root', 1, '', 0, 1.7, 0],
  ['pelvis', 1, 'root 1', 0, 1.75, -0.7],
  ...row('spine', 3, 'root 1', [0, 1.85, -0.3], [0, 0.02, 0.45]),
  ['neck', 1, 'spine 3', 0, 2.0, 1.0],
  ['head', 1, 'neck 1', 0, 2.1, 1.35],
  ['jaw', 1, 'head 1', 0, 1.75, 1.45],
  ...row('trunk', 6, 'head 1', [0, 1.8, 1.75], [0, -0.24, 0.04]),
  ...row('tail', 3, 'pelvis 1', [0, 1.6, -1.05], [0, -0.25, -0.05]),
];

const ELEPHANT_SIDE: readonly Spec[] = [
  ['upperarm', 1, 'spine 3', 0.35, 1.35, 0.65],
  ['lowerarm', 1, 'upperarm 1', 0.36, 0.75, 0.6],
  ['hand', 1, 'lowerarm 1', 0.36, 0.2, 0.66],
  ['upperleg', 1, 'pelvis 1', 0.32, 1.3, -0.75],
  ['lowerleg', 1, 'upperleg 1', 0.33, 0.75, -0.68],
  ['foot', 1, 'lowerleg 1', 0.33, 0.2, -0.75],
  ['ear', 1, 'head 1', 0.4, 2.15, 1.3],
  ['horn', 1, 'head 1', 0.15, 1.7, 1.65],
];

const GIRAFFE_MIDDLE: readonly Spec[] = [
  ['pelvis', 1, '', 0, 2.0, -0.6],
  ...row('spine', 3, 'pelvis 1', [0, 2.15, -0.3], [0, 0.15, 0.3]),
  ...row('neck', 6, 'spine 3', [0, 2.7, 0.5], [0, 0.35, 0.12]),
  ['head', 1, 'neck 6', 0, 4.75, 1.25],
  ...row('tail', 3, 'pelvis 1', [0, 1.95, -0.75], [0, -0.25, -0.03]),
];

const GIRAFFE_SIDE: readonly Spec[] = [
  ...chainLeg('frontleg', 0.2, 0.35, 2.0, 'spine 3'),
  ...chainLeg('hindleg', 0.2, -0.55, 1.85, 'pelvis 1'),
  ['horn', 1, 'head 1', 0.06, 4.95, 1.2],
  ['ear', 1, 'head 1', 0.12, 4.85, 1.15],
];

const CROCODILE_MIDDLE: readonly Spec[] = [
  ['pelvis', 1, '', 0, 0.28, -0.5],
  ...row('spine', 4, 'pelvis 1', [0, 0.3, -0.25], [0, 0, 0.25]),
  ['neck', 1, 'spine 4', 0, 0.3, 0.75],
  ['head', 1, 'neck 1', 0, 0.3, 1.0],
  ['jaw', 1, 'head 1', 0, 0.26, 1.1],
  ...row('tail', 6, 'pelvis 1', [0, 0.28, -0.75], [0, -0.02, -0.28]),
];

const CROCODILE_SIDE: readonly Spec[] = [
  ['upperarm', 1, 'spine 4', 0.15, 0.26, 0.5],
  ['lowerarm', 1, 'upperarm 1', 0.3, 0.2, 0.45],
  ['hand', 1, 'lowerarm 1', 0.34, 0.04, 0.5],
  ['upperleg', 1, 'pelvis 1', 0.14, 0.26, -0.5],
  ['lowerleg', 1, 'upperleg 1', 0.32, 0.22, -0.46],
  ['foot', 1, 'lowerleg 1', 0.37, 0.04, -0.52],
];

const FISH_MIDDLE: readonly Spec[] = [
  ['spine', 1, '', 0, 0.5, 0.1],
  ['head', 1, 'spine 1', 0, 0.5, 0.4],
  ['jaw', 1, 'head 1', 0, 0.45, 0.5],
  ...row('spine', 3, 'spine 1', [0, 0.5, -0.15], [0, 0, -0.25]).map(
    ([name, number, parent, ...place]): Spec => [
      name,
      number + 1,
      number === 1 ? parent : `spine ${number}`,
      ...place,
    ],
  ),
  ...row('tail', 2, 'spine 4', [0, 0.5, -0.9], [0, 0, -0.2]),
];

const FISH_SIDE: readonly Spec[] = [...row('fin', 3, 'spine 1', [0.1, 0.42, 0.15], [0.09, -0.03, -0.04])];

function bonesFrom(middle: readonly Spec[], side: readonly Spec[]): RoleBone[] {
  const out: RoleBone[] = [];
  const at = new Map<string, number>();
  const add = ([part, number, parent, x, y, z]: Spec, which: RoleBone['side'], suffix: string) => {
    const found = at.get(parent + suffix) ?? at.get(parent) ?? -1;
    at.set(`${part} ${number}${suffix}`, out.length);
    const sign = which === 'right' ? -1 : 1;
    out.push({
      role: `${part} ${number} ${which}`,
      part,
      side: which,
      number,
      parent: found,
      place: [x * sign, y, z],
    });
  };
  for (const row of middle) add(row, 'middle', '');
  for (const row of side) add(row, 'left', ' left');
  for (const row of side) add(row, 'right', ' right');
  return out;
}

/** The kinds of figures. */
export const KINDS = {
  human: bonesFrom(HUMAN_MIDDLE, HUMAN_SIDE),
  dog: bonesFrom(DOG_MIDDLE, DOG_SIDE),
  bird: bonesFrom(BIRD_MIDDLE, BIRD_SIDE),
  cattle: bonesFrom(CATTLE_MIDDLE, CATTLE_SIDE),
  elephant: bonesFrom(ELEPHANT_MIDDLE, ELEPHANT_SIDE),
  giraffe: bonesFrom(GIRAFFE_MIDDLE, GIRAFFE_SIDE),
  crocodile: bonesFrom(CROCODILE_MIDDLE, CROCODILE_SIDE),
  fish: bonesFrom(FISH_MIDDLE, FISH_SIDE),
} as const;

export type FigureKind = keyof typeof KINDS;
