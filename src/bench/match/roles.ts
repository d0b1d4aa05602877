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

type Spec = readonly [part: string, number: number, parent: string, x: number, y: number, z: number];

const finger = (
  name: string,
  x: number,
  y: number,
  z: number,
  lengths: readonly number[],
  toward: readonly number[],
): Spec[] => {
  let at = [x, y, z];
  return lengths.map((l, k): Spec => {
    const row: Spec = [name, k + 1, k === 0 ? 'hand 1' : `${name} ${k}`, at[0], at[1], at[2]];
    at = at.map((v, c) => v + toward[c] * l);
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
} as const;

export type FigureKind = keyof typeof KINDS;
