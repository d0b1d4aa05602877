/**
 * The Stoker of the night ferry: heavy-set, in an apron, with other proportions and other names; and as a
 * supplier delivered him.
 */
import type { Character, Mesh, SceneNode } from '../core/character/model';
import { node, positionsOf, replaceAt } from '../core/character/model';
import { restWorld } from '../core/character/hierarchy';
import { STILL, underSimilarity } from '../core/character/similarity';
import { QUAY, quayOther } from '../core/anatomy/skeletons/quay';
import type { SkeletonBone } from '../core/anatomy/skeleton';
import { type Quat, decompose, quatAbout, quatConjugate } from '../core/geometry/matrix';
import { influencesFrom } from '../core/geometry/influences';
import { writeCollada } from '../core/formats/collada/write';
import { boundInPose } from '../core/motion/bound-in-pose';
import { characterOf, meshOf, normalsOf, plainMaterials, skeletonNodes, skinOf } from './assemble';
import { bodyCage, bodySolid, crown, trunkRing } from './body';
import { type Cage, CageBuilder, type Point, type Weights, mirror, subdivide } from './cage';
import { bootsCage, eyes, lanternCage, pill } from './clothes';
import { hail } from './deckhand';
import { drawn } from './solid';

const bell = (x: number, middle: number, width: number) => Math.exp(-(((x - middle) / width) ** 2));
const smooth = (a: number, b: number, x: number) => {
  const share = Math.min(1, Math.max(0, (x - a) / (b - a)));
  return share * share * (3 - 2 * share);
};

/**
 * From the Deckhand's form to the Stoker's: a belly, a broad chest, thick limbs and neck, short legs; again
 * 1.76 m tall.
 */
function stout([x, y, z]: Point): Point {
  const belly = bell(y, 1.1, 0.14);
  const chest = bell(y, 1.34, 0.16);
  const hips = bell(y, 0.92, 0.11);
  const side = Math.sign(x);
  const wide = Math.abs(x);
  const arm = smooth(0.17, 0.27, wide) * smooth(1.2, 1.32, y);
  let px = x + side * Math.min(wide, 0.19) * (0.34 * belly + 0.2 * chest + 0.14 * hips);
  let py = y;
  let pz = z;
  const back = -0.012;
  const trunk = 1 - arm;
  pz =
    back +
    (pz - back) *
      (1 +
        trunk *
          (pz > back ? 0.8 * belly + 0.26 * chest + 0.22 * hips : 0.2 * belly + 0.26 * chest + 0.28 * hips));
  // Arms grow thick about their own axis, less so towards the hand.
  const thick = 1 + arm * (0.3 - 0.2 * smooth(0.6, 0.76, wide));
  py = 1.437 + (py - 1.437) * (1 + (thick - 1) * arm);
  pz = -0.02 + (pz + 0.02) * (1 + (thick - 1) * arm);
  // Legs, fuller on the outside, so that the thighs do not meet.
  const leg = (1 - smooth(0.76, 0.9, y)) * (1 - 0.75 * (1 - smooth(0.06, 0.2, y)));
  const axis = 0.1;
  if (wide > 1e-9)
    px = side * (Math.abs(px) + (wide > axis ? (wide - axis) * 0.3 * leg : (wide - axis) * 0.03 * leg));
  pz *= 1 + 0.2 * leg;
  // A thick neck and a round head.
  const neck = bell(y, 1.53, 0.045);
  const head = smooth(1.56, 1.62, y);
  if (wide < 0.14) {
    px *= 1 + 0.3 * neck + 0.1 * head;
    pz = -0.012 + (pz + 0.012) * (1 + 0.26 * neck + 0.07 * head);
  }
  py = py < 0.9 ? py * 0.93 : py - 0.063;
  const f = 1.76 / 1.716;
  return [px * f, py * f, pz * f];
}

const TRUNK: Readonly<Record<string, string>> = {
  root: 'Root',
  pelvis: 'Pelvis',
  spine_1: 'SpineLower',
  spine_2: 'SpineLower',
  spine_3: 'SpineMiddle',
  spine_4: 'SpineUpper',
  spine_5: 'SpineUpper',
  neck_1: 'Neck',
  neck_2: 'Neck',
  head: 'Head',
};
const LIMB: Readonly<Record<string, string>> = {
  collar: 'Collar',
  arm_upper: 'UpperArm',
  arm_twist: 'UpperArm',
  arm_lower: 'Forearm',
  wrist_twist: 'Forearm',
  hand: 'Hand',
  leg_upper: 'Thigh',
  leg_lower: 'Shin',
  foot: 'Foot',
  toe: 'Toes',
  thumb: 'Thumb',
  point: 'Index',
  long: 'Middle',
  ring: 'Ring',
  small: 'Little',
};

/** The Stoker's name of a Quay bone: sides in front, no twist bones, three bones of spine. */
function stokerName(quay: string): string {
  if (TRUNK[quay]) return TRUNK[quay];
  const side = quay.endsWith('_lt') ? 'Left' : 'Right';
  const stem = quay.slice(0, -3);
  const numbered = /^(thumb|point|long|ring|small)_(\d)$/.exec(stem);
  return `${side}${numbered ? `${LIMB[numbered[1]]}${numbered[2]}` : LIMB[stem]}`;
}

function skeleton(): SkeletonBone[] {
  const bones: SkeletonBone[] = [];
  for (const bone of QUAY.bones) {
    const name = stokerName(bone.name);
    if (bones.some((candidate) => candidate.name === name)) continue;
    bones.push({
      ...bone,
      name,
      parent:
        bone.parent < 0
          ? -1
          : bones.findIndex((candidate) => candidate.name === stokerName(QUAY.bones[bone.parent].name)),
      place: bone.name === 'root' ? [0, 0, 0] : stout(bone.place),
    });
  }
  return bones;
}

/** A cage whose weights name the Stoker's bones. */
function renameAll(cage: Cage): Cage {
  return {
    ...cage,
    weights: cage.weights.map((weight) => {
      const out: Record<string, number> = {};
      for (const [key, x] of Object.entries(weight)) out[stokerName(key)] = (out[stokerName(key)] ?? 0) + x;
      return out;
    }),
  };
}

/** Bare forearms below rolled-up sleeves. */
function rolledUp(cage: Cage): Cage {
  return {
    ...cage,
    faces: cage.faces.map((face) =>
      face.material === 'knit' && face.corners.every((corner) => Math.abs(cage.points[corner][0]) > 0.43)
        ? { ...face, material: 'skin' }
        : face,
    ),
  };
}

const apronWeights = (y: number, x: number): Weights => {
  const at = (list: readonly [number, string][]): Weights => {
    for (let i = 1; i < list.length; i++)
      if (y >= list[i][0]) {
        const t = (y - list[i][0]) / (list[i - 1][0] - list[i][0]);
        return { [list[i - 1][1]]: Math.min(1, t), [list[i][1]]: Math.max(0, 1 - t) };
      }
    return { pelvis: 1 };
  };
  if (y > 0.93)
    return at([
      [1.4, 'spine_5'],
      [1.29, 'spine_4'],
      [1.2, 'spine_3'],
      [1.1, 'spine_2'],
      [1.02, 'spine_1'],
      [0.93, 'pelvis'],
    ]);
  const leg = smooth(0.95, 0.52, y) * 0.62;
  const left = smooth(-0.09, 0.09, x);
  return { pelvis: 1 - leg, leg_upper_lt: leg * left, leg_upper_rt: leg * (1 - left) };
};

/** A leather apron: a bib, a waist, a front that hangs to the knee; outside, inside and a hem round both. */
function apronCage(): Cage {
  const cage = new CageBuilder();
  const solid = bodySolid();
  const rows: readonly [y: number, spread: number, a: number, b: number][] = [
    [1.36, 34, 0.2, 0.15],
    [1.28, 42, 0.195, 0.148],
    [1.19, 52, 0.185, 0.14],
    [1.11, 74, 0.18, 0.135],
    [1.04, 84, 0.18, 0.135],
    [0.97, 82, 0.17, 0.128],
    [0.9, 78, 0.168, 0.134],
    [0.8, 76, 0.172, 0.142],
    [0.7, 75, 0.18, 0.15],
    [0.6, 74, 0.188, 0.157],
    [0.52, 74, 0.192, 0.162],
  ];
  const columns = 10;
  const layer = (gap: number, inset: number) =>
    rows.map(([y, spread, a, b], index) =>
      Array.from({ length: columns + 1 }, (_, k) => {
        const angle = (((k / columns) * 2 - 1) * spread * (1 - inset * 0.012) * Math.PI) / 180;
        const last = index === rows.length - 1 || index === 0;
        const at: Point = [
          a * Math.sin(angle),
          y + (last ? (index === 0 ? -1 : 1) * inset * 0.004 : 0),
          -0.012 + b * Math.cos(angle),
        ];
        const worn =
          y > 0.93 ? drawn(solid, at, gap, 1, 0.2) : ([at[0] * (1 + gap * 0.6), at[1], at[2] + gap] as const);
        return cage.point([worn[0], at[1], worn[2]], apronWeights(y, at[0]));
      }),
    );
  const outside = layer(0.021, 0);
  const inside = layer(0.009, 1);
  for (let row = 1; row < rows.length; row++) {
    cage.bridge(outside[row], outside[row - 1], 'oilskin', false);
    cage.bridge(inside[row - 1], inside[row], 'oilskin', false);
  }
  const rim = (list: readonly [number, number][]) =>
    list.map(([r, k]) => [outside[r][k], inside[r][k]] as const);
  const round: [number, number][] = [
    ...Array.from({ length: columns + 1 }, (_, k): [number, number] => [0, k]),
    ...Array.from({ length: rows.length - 2 }, (_, r): [number, number] => [r + 1, columns]),
    ...Array.from({ length: columns + 1 }, (_, k): [number, number] => [rows.length - 1, columns - k]),
    ...Array.from({ length: rows.length - 2 }, (_, r): [number, number] => [rows.length - 2 - r, 0]),
  ];
  const ends = rim(round);
  ends.forEach(([o, i], k) => {
    const [p, q] = ends[(k + 1) % ends.length];
    cage.face([o, p, q, i], 'oilskin');
  });
  return cage;
}

/** A flat cap with a peak. */
function capCage(): Cage {
  const cage = new CageBuilder();
  const weights: Weights = { head: 1 };
  const ring = (y: number, a: number, b: number, z: number, peak = 0, dip = 0) => {
    const out = trunkRing(cage, { y, a, b, z, weights });
    out.forEach((point, k) => {
      const [x, py, pz] = cage.points[point];
      const front = Math.max(0, [1, 0.92, 0.62, 0.25, 0, 0, 0, 0, 0][k]);
      cage.points[point] = [x, py - dip * front, pz + peak * front];
    });
    return out;
  };
  const rings = [
    ring(1.716, 0.08, 0.1, 0.002),
    ring(1.7, 0.083, 0.106, 0.002),
    ring(1.698, 0.086, 0.109, 0.002, 0.03, 0.006),
    ring(1.697, 0.089, 0.112, 0.002, 0.06, 0.018),
    ring(1.703, 0.089, 0.113, 0.002, 0.061, 0.016),
    ring(1.712, 0.089, 0.113, 0.002, 0.02, 0.002),
    ring(1.724, 0.1, 0.126, -0.002, 0.012),
    ring(1.744, 0.11, 0.136, -0.006, 0.012),
    ring(1.76, 0.104, 0.128, -0.008, 0.004),
    ring(1.773, 0.082, 0.104, -0.008),
  ];
  for (let i = 1; i < rings.length; i++) cage.bridge(rings[i - 1], rings[i], 'canvas', false);
  crown(cage, rings[rings.length - 1], 1.782, weights, 'canvas');
  return mirror(cage, quayOther);
}

/** A neckerchief: a soft roll round the neck, lying on the collarbones. */
function neckerchiefCage(): Cage {
  const cage = new CageBuilder();
  const rows: readonly [number, number, number, number][] = [
    [1.53, 0.064, 0.068, -0.02],
    [1.54, 0.082, 0.09, -0.012],
    [1.522, 0.1, 0.108, -0.008],
    [1.492, 0.104, 0.112, -0.008],
    [1.484, 0.088, 0.096, -0.012],
  ];
  const rings = rows.map(([y, a, b, z]) =>
    trunkRing(cage, { y, a, b, z, weights: { neck_1: 0.55, spine_5: 0.45 } }),
  );
  rings.forEach((ring, i) => cage.bridge(ring, rings[(i + 1) % rings.length], 'brass', false));
  // Laid from the inside out, so the roll must be turned.
  for (const face of cage.faces) face.corners.reverse();
  return mirror(cage, quayOther);
}

function moustache(): Cage {
  const cage = new CageBuilder();
  for (const s of [1, -1]) {
    pill(cage, [s * 0.0157, 1.6233, 0.1083], [0.0147, 0.0075, 0.0079], { head: 1 }, 'horn');
    pill(cage, [s * 0.033, 1.617, 0.098], [0.013, 0.006, 0.0065], { head: 1 }, 'horn');
  }
  return cage;
}

function shape(mesh: Mesh): Mesh {
  const positions = positionsOf(mesh);
  const data = new Float32Array(positions.length);
  for (let i = 0; i < positions.length; i += 3) {
    const q = stout([positions[i], positions[i + 1], positions[i + 2]]);
    data.set([Math.abs(q[0]) < 1e-7 ? 0 : q[0], Math.max(0, q[1]), q[2]], i);
  }
  return {
    ...mesh,
    attributes: {
      ...mesh.attributes,
      POSITION: { ...mesh.attributes.POSITION, data },
      NORMAL: { ...mesh.attributes.NORMAL, data: normalsOf(data, mesh.polygonOffsets, mesh.corners) },
    },
  };
}

/** The Stoker as he should be: 1.76 m, T-pose, lamp in hand. `steps`: how often his cages are subdivided. */
function cleanStoker(steps: number): Character {
  const bones = skeleton();
  const nodes = skeletonNodes({ id: 'stoker', title: 'Stoker', bones });
  const names = bones.map((bone) => bone.name);
  const solid = bodySolid();
  const body = rolledUp(mirror(bodyCage(), quayOther));
  const onto = { solid, share: 0.94, offset: 0, farthest: 0.05 };
  const meshes = [
    meshOf(
      'body',
      [
        { name: 'body', cage: renameAll(body), steps, onto, floor: 0.004 },
        { name: 'eyes', cage: renameAll(eyes()), steps },
        { name: 'moustache', cage: renameAll(moustache()), steps },
      ],
      names,
      4,
    ),
    meshOf('apron', [{ name: 'apron', cage: renameAll(apronCage()), steps }], names, 4),
    meshOf(
      'boots',
      [{ name: 'boots', cage: renameAll(subdivide(bootsCage())), steps: steps - 1, floor: 0 }],
      names,
      4,
    ),
    meshOf(
      'cap',
      [
        { name: 'cap', cage: renameAll(capCage()), steps },
        { name: 'neckerchief', cage: renameAll(neckerchiefCage()), steps },
      ],
      names,
      4,
    ),
  ].map(shape);
  const lamp = meshOf('hand lamp', [{ name: 'lamp', cage: lanternCage(), steps: 1 }], null, 4);
  const hand = nodes.findIndex((node) => node.name === 'RightHand');
  const world = decompose(restWorld(nodes), hand * 16);
  const grip = quatConjugate(world.rotation);
  nodes.push(
    node({ name: 'stoker body', kind: 'mesh', mesh: 0, skin: 0 }),
    node({ name: 'apron', kind: 'mesh', mesh: 1, skin: 0 }),
    node({ name: 'boots', kind: 'mesh', mesh: 2, skin: 0 }),
    node({ name: 'cap and neckerchief', kind: 'mesh', mesh: 3, skin: 0 }),
    node({
      name: 'hand lamp',
      kind: 'mesh',
      mesh: 4,
      parent: hand,
      rotation: grip,
      translation: [0.075, -0.03, 0.02],
    }),
  );
  const character = characterOf('Stoker', nodes, [...meshes, lamp], [skinOf('stoker', nodes, names)]);
  return {
    ...character,
    carried: {
      ...character.carried,
      materials: plainMaterials(character.carried.materials, colours),
      textures: [],
      samplers: [],
    },
    clips: [hail(character, stokerName)],
  };
}

const colours: Readonly<Record<string, number[]>> = {
  oilskin: [0.36, 0.24, 0.15, 1],
  knit: [0.68, 0.64, 0.56, 1],
  brass: [0.62, 0.2, 0.16, 1],
  canvas: [0.24, 0.24, 0.26, 1],
};

const OLD_HEIGHT = 1.66;
const GROUP_SCALE = 1.25;
const LAMP_FACTOR = 1.4;

/**
 * The Stoker as he came: the faults of faults.ts, in a COLLADA file whose numbers are centimetres and whose
 * unit says inches.
 */
export function deliveredStoker(steps: number): Uint8Array {
  const clean = brushedThrough(cleanStoker(steps));
  const half = (degrees: number): Quat => quatAbout([0, 0, 1], (degrees * Math.PI) / 180);
  const at = (character: Character, name: string) => character.nodes.findIndex((node) => node.name === name);
  const leaning = boundInPose(
    clean,
    new Map([
      [at(clean, 'LeftUpperArm'), half(-44)],
      [at(clean, 'RightUpperArm'), half(44)],
    ]),
  );
  // The lamp still hangs plumb.
  const hand = at(leaning, 'RightHand');
  const lamp = at(leaning, 'hand lamp');
  const plumb = {
    ...leaning.nodes[lamp],
    rotation: quatConjugate(decompose(restWorld(leaning.nodes), hand * 16).rotation),
  };
  const small = underSimilarity(
    { ...leaning, nodes: leaning.nodes.map((node, i) => (i === lamp ? plumb : node)) },
    { ...STILL, scale: OLD_HEIGHT / 1.76 },
  );
  const grouped = underGroup(small, lamp);
  return writeCollada(underSimilarity(grouped, { ...STILL, scale: 2.54 }), 'stoker', {
    name: 'inch',
    metres: 0.0254,
  }).files[0].bytes;
}

/** A brush on the right boot reached the left one: a patch of it goes partly with the right shin. */
function brushedThrough(character: Character): Character {
  const boots = character.nodes.find(({ name, mesh }) => name === 'boots' && mesh >= 0)!;
  const shin = character.nodes.findIndex(({ name }) => name === 'RightShin');
  const joint = character.skins[boots.skin].joints.indexOf(shin);
  const mesh = character.meshes[boots.mesh];
  const points = positionsOf(mesh);
  const { offsets, joint: joints, weight } = mesh.influences!;
  const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) => {
    const row: [number, number][] = [];
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) row.push([joints[k], weight[k]]);
    const [x, y] = [points[vertex * 3], points[vertex * 3 + 1]];
    // The inner side of the left boot's shaft.
    const isReached = x > 0 && x < 0.09 && y > 0.24 && y < 0.3;
    return isReached
      ? [[joint, 0.2] as [number, number], ...row.map(([own, share]): [number, number] => [own, share * 0.8])]
      : row;
  });
  return {
    ...character,
    meshes: replaceAt(
      character.meshes,
      new Map([[boots.mesh, { ...mesh, influences: influencesFrom(rows) }]]),
    ),
  };
}

/**
 * Everything under an empty, scaled group, made smaller so that it stands as before; the lamp's points at the
 * old scale.
 */
function underGroup(character: Character, lamp: number): Character {
  const scale = 1 / GROUP_SCALE;
  const nodes: SceneNode[] = [
    node({ name: 'export_group', scale: [GROUP_SCALE, GROUP_SCALE, GROUP_SCALE] }),
    ...character.nodes.map((node): SceneNode => ({
      ...node,
      parent: node.parent + 1,
      translation: node.translation.map((x) => x * scale),
    })),
  ];
  const mesh = character.nodes[lamp].mesh;
  const meshes = character.meshes.map((otherMesh, i) =>
    i === mesh
      ? {
          ...otherMesh,
          attributes: {
            ...otherMesh.attributes,
            POSITION: {
              ...otherMesh.attributes.POSITION,
              data: positionsOf(otherMesh).map((x) => x * scale * LAMP_FACTOR),
            },
          },
        }
      : otherMesh,
  );
  const skins = character.skins.map((skin) => ({
    ...skin,
    joints: skin.joints.map((j) => j + 1),
    inverseBinds: scaledBinds(skin.inverseBinds, scale),
  }));
  const clips = character.clips.map((clip) => ({
    ...clip,
    channels: clip.channels.map((ch) => ({
      ...ch,
      node: ch.node + 1,
      values: ch.path === 'translation' ? ch.values.map((x) => x * scale) : ch.values,
    })),
  }));
  return {
    ...character,
    nodes,
    meshes,
    skins,
    clips,
    carried: { ...character.carried, scenes: [{ json: {}, roots: [0] }] },
  };
}

/** Inverse binds of joints that have come to stand at scale 1/s in the world. */
function scaledBinds(binds: Float32Array | Float64Array, s: number): Float64Array {
  return Float64Array.from(binds, (x, i) => (i % 16 === 15 ? x : x * s));
}
