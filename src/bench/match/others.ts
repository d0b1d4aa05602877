/** Skeletons that others made: the published hands, captures and sample models; and hands cut from figures. */
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import path from 'node:path';
import { readCharacter } from '../../core/formats';
import { skeletonOfBones } from '../../core/anatomy/lone';
import { limbFor, matchSkeletons } from '../../core/anatomy/match';
import { type Skeleton, skeletonOf } from '../../core/anatomy/skeleton';
import { VRM_HUMANOID } from '../../core/anatomy/skeletons/vrm';
import { WEBXR_HAND_LEFT, WEBXR_HAND_RIGHT } from '../../core/anatomy/skeletons/webxr-hand';
import { makeFigure, makeRandom } from './figures';
import { HABITS } from './habits';
import type { BenchRow } from '../row';
import { rolesOfShipped } from './truth';

const MODELS = '/usr/share/assimp/models';

/** All rows of what others made. */
export const othersRows = (): BenchRow[] => [
  ...handRows(),
  ...captureRows(),
  ...selfRows(),
  ...cutHandRows(),
];

const nameless = (skeleton: Skeleton): Skeleton => ({
  ...skeleton,
  bones: skeleton.bones.map((bone, i) => ({ ...bone, name: `b${i}` })),
});

const publishedHand = (side: string): Skeleton => {
  const file = `node_modules/@webxr-input-profiles/assets/dist/profiles/generic-hand/${side}.glb`;
  return skeletonOf(readCharacter([{ name: `${side}.glb`, bytes: new Uint8Array(readFileSync(file)) }]));
};

function handRows(): BenchRow[] {
  const out: BenchRow[] = [];
  for (const [side, target] of [
    ['left', WEBXR_HAND_LEFT],
    ['right', WEBXR_HAND_RIGHT],
  ] as const) {
    const hand = publishedHand(side);
    for (const [what, skeleton] of [
      ['with its names', hand],
      ['without names', nameless(hand)],
    ] as const) {
      const pairs = matchSkeletons(skeleton, target);
      const right = pairs.filter(
        (pair) => hand.bones[pair.source].name === target.bones[pair.target].name,
      ).length;
      out.push({
        work: `match, the published ${side} hand ${what}`,
        measured: `${right} of ${target.bones.length}`,
        budget: what === 'with its names' ? 'all' : 'told',
        holds: what !== 'with its names' || right === target.bones.length,
      });
    }
    const onto = matchSkeletons(hand, VRM_HUMANOID).filter((pair) =>
      VRM_HUMANOID.bones[pair.target].name.startsWith(side),
    ).length;
    out.push({
      work: `match, the published ${side} hand onto a body’s ${side} hand`,
      measured: `${onto} of 16`,
      budget: 'all',
      holds: onto === 16,
    });
  }
  return out;
}

function captureRows(): BenchRow[] {
  const out: BenchRow[] = [];
  for (const [name, wanted] of CAPTURES) {
    const file = path.join(MODELS, 'BVH', name);
    if (!existsSync(file)) continue;
    const source = skeletonOf(readCharacter([{ name, bytes: new Uint8Array(readFileSync(file)) }]));
    const found = new Map(
      matchSkeletons(source, VRM_HUMANOID).map((pair) => [
        source.bones[pair.source].name,
        VRM_HUMANOID.bones[pair.target].name,
      ]),
    );
    const right = Object.entries(wanted).filter(([mine, theirs]) => found.get(mine) === theirs).length;
    const all = Object.keys(wanted).length;
    out.push({ work: `match, ${name}`, measured: `${right} of ${all}`, budget: 'all', holds: right === all });
  }
  return out;
}

const BOTH = (rows: Readonly<Record<string, string>>, left = 'Left', right = 'Right') =>
  Object.fromEntries(
    Object.entries(rows).flatMap(([mine, theirs]) => [
      [left + mine, `left${theirs}`],
      [right + mine, `right${theirs}`],
    ]),
  );

/** What the bones of captures are, read off their files by eye. */
const CAPTURES: readonly (readonly [string, Readonly<Record<string, string>>])[] = [
  [
    '01_01.bvh',
    {
      Hips: 'hips',
      LowerBack: 'spine',
      Spine: 'chest',
      Spine1: 'upperChest',
      Head: 'head',
      ...BOTH({ UpLeg: 'UpperLeg', Leg: 'LowerLeg', Foot: 'Foot', ToeBase: 'Toes' }),
      ...BOTH({ Shoulder: 'Shoulder', Arm: 'UpperArm', ForeArm: 'LowerArm', Hand: 'Hand' }),
    },
  ],
  [
    'Boxing_Toes.bvh',
    {
      Hips: 'hips',
      Neck: 'neck',
      Head: 'head',
      ...BOTH({ Hip: 'UpperLeg', Knee: 'LowerLeg', Ankle: 'Foot', Toes: 'Toes' }),
      ...BOTH({ Collar: 'Shoulder', Shoulder: 'UpperArm', Elbow: 'LowerArm', Wrist: 'Hand' }),
    },
  ],
];

/** The skeletons of all sample models that can be read and have enough bones to speak of. */
function sampleSkeletons(): { readonly name: string; readonly skeleton: Skeleton }[] {
  const out: { name: string; skeleton: Skeleton }[] = [];
  for (const file of samples(MODELS)) {
    try {
      const bytes = new Uint8Array(readFileSync(file));
      const folder = path.dirname(file);
      const others = readdirSync(folder)
        .filter((file) => /\.(bin|png|jpe?g)$/i.test(file))
        .map((name) => ({ name, bytes: new Uint8Array(readFileSync(path.join(folder, name))) }));
      const skeleton = skeletonOf(readCharacter([{ name: path.basename(file), bytes }, ...others]));
      if (skeleton.bones.length >= 3) out.push({ name: path.basename(file), skeleton });
    } catch {
      // Samples that are broken on purpose are refused, which other tests see to.
    }
  }
  return out;
}

function samples(folder: string): string[] {
  if (!existsSync(folder)) return [];
  return readdirSync(folder, { withFileTypes: true }).flatMap((dirent) => {
    const at = path.join(folder, dirent.name);
    if (dirent.isDirectory()) return samples(at);
    return /\.(bvh|glb|gltf|dae)$/i.test(dirent.name) ? [at] : [];
  });
}

/** A skeleton matched to itself is the identity, with names or without. */
function selfRows(): BenchRow[] {
  const all = sampleSkeletons();
  if (all.length === 0) return [];
  return [false, true].map((isNameless): BenchRow => {
    let right = 0;
    let bones = 0;
    const worst: string[] = [];
    for (const { name, skeleton } of all) {
      const otherSkeleton = isNameless ? nameless(skeleton) : skeleton;
      const own = matchSkeletons(otherSkeleton, skeleton).filter(
        (pair) => pair.source === pair.target,
      ).length;
      right += own;
      bones += skeleton.bones.length;
      if (own < skeleton.bones.length) worst.push(`${name} ${own} of ${skeleton.bones.length}`);
    }
    return {
      work: `match, ${all.length} skeletons of sample files onto themselves${isNameless ? ', without names' : ''}`,
      measured: `${right} of ${bones}${worst.length > 0 ? ` (${worst.slice(0, 4).join('; ')})` : ''}`,
      budget: 'all',
      holds: right === bones,
    };
  });
}

/** Hands cut from figures, whose names do not say the side: the side, and the fingers. */
function cutHandRows(): BenchRow[] {
  const random = makeRandom(77);
  const bodyRoles = rolesOfShipped(VRM_HUMANOID);
  const count = { hands: 0, sided: 0, asked: 0, wrongSide: 0, bones: 0, right: 0 };
  const known = HABITS.filter((habit) => habit.speaks === 'known');
  for (let k = 0; k < 120; k++) {
    const figure = makeFigure(random, 'human', known[k % known.length], { plain: true });
    const side = k % 2 === 0 ? 'left' : 'right';
    const isOfHand = (role: string | null) =>
      !!role?.endsWith(side) && /^(hand|thumb|index|long|ring|little) /.test(role);
    const bones = figure.roles.flatMap((role, i) => (isOfHand(role) ? [i] : []));
    if (bones.length < 10) continue;
    const hand = withoutSides(skeletonOfBones(figure.skeleton, bones), side);
    const limb = limbFor(hand, VRM_HUMANOID);
    count.hands++;
    if (!limb || limb.from === 'guess') count.asked++;
    else if (limb.side === (side === 'left' ? 1 : -1)) count.sided++;
    else count.wrongSide++;
    for (const skeleton of matchSkeletons(hand, VRM_HUMANOID)) {
      const role = figure.roles[bones[skeleton.source]]?.split(' ').slice(0, 2).join(' ');
      if (bodyRoles[skeleton.target]?.startsWith(`${role} `)) count.right++;
    }
    count.bones += bones.length;
  }
  return [
    {
      work: `match, ${count.hands} hands by themselves whose names tell no side`,
      measured: `${count.sided} on their own side, ${count.wrongSide} on the other, ${count.asked} asked about`,
      budget: 'none on the other',
      holds: count.wrongSide === 0,
    },
    {
      work: 'match, fingers of hands by themselves',
      measured: `${((100 * count.right) / Math.max(1, count.bones)).toFixed(2)} %`,
      budget: '≥ 99.5 %',
      holds: count.right >= 0.995 * count.bones,
    },
  ];
}

/** The names of a hand with the tokens taken off that all of them share, in which the side is. */
function withoutSides(hand: Skeleton, side: string): Skeleton {
  const words = [side, side[0]];
  const strip = (name: string) =>
    name
      .split(/(?<=[a-z])(?=[A-Z])|[\s_.:|-]+/)
      .filter((word) => !words.includes(word.toLowerCase()))
      .join('_');
  return { ...hand, bones: hand.bones.map((bone) => ({ ...bone, name: strip(bone.name) })) };
}
