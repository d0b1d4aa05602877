/**
 * The Deckhand as a supplier delivered it: other names, another spine, ends and controls, and the faults of
 * faults.ts.
 */
import type { Attribute, Character, Influences, Mesh, VertexArray } from '../core/character/model';
import { node, positionsOf } from '../core/character/model';
import type { SkeletonBone } from '../core/anatomy/skeleton';
import { decompose, quatConjugate } from '../core/geometry/matrix';
import { restPlace, restWorld } from '../core/character/hierarchy';
import { withJointsAt } from '../core/character/place-joints';
import { withTurnedAxes } from '../core/character/turn-axes';
import { influencesFrom } from '../core/geometry/influences';
import { characterOf, skeletonNodes, skinOf } from './assemble';
import { deckhandSkeleton, hail } from './deckhand';
import { coatPlace } from './clothes';
import { patrol } from './patrol';

const TRUNK: Readonly<Record<string, string>> = {
  root: 'base',
  pelvis: 'hips_c',
  spine_1: 'spine_a',
  spine_2: 'spine_a',
  spine_3: 'spine_b',
  spine_4: 'spine_c',
  spine_5: 'spine_c',
  neck_1: 'neck_c',
  neck_2: 'neck_c',
  head: 'head_c',
  cap: 'cap',
  lantern: 'lantern_ring',
};
const LIMB: Readonly<Record<string, string>> = {
  collar: 'clavicle',
  arm_upper: 'upperarm',
  arm_twist: 'armtwist',
  arm_lower: 'forearm',
  wrist_twist: 'wristtwist',
  hand: 'hand',
  leg_upper: 'thigh',
  leg_lower: 'shin',
  foot: 'foot',
  toe: 'toes',
  point: 'index',
  long: 'middle',
  ring: 'ring',
  small: 'pinky',
  thumb: 'thumb',
};

/** The supplier's name of a bone of the clean Deckhand. */
function supplierName(quay: string): string {
  if (TRUNK[quay]) return TRUNK[quay];
  const side = quay.endsWith('_lt') ? 'L' : 'R';
  const stem = quay.slice(0, -3);
  const numbered = /^(thumb|point|long|ring|small)_(\d)$/.exec(stem);
  if (numbered)
    return `${side}_${LIMB[numbered[1]]}_${numbered[2]}${side === 'R' && stem === 'point_2' ? '_copy' : ''}`;
  return `${side}_${LIMB[stem] ?? stem}`;
}

const LIFT_METRES = 0.032;

export function deliveredDeckhand(clean: Character): Character {
  const skeleton = deckhandSkeleton();
  const bones: SkeletonBone[] = [];
  const at = (name: string) => bones.findIndex((bone) => bone.name === name);
  for (const bone of skeleton.bones) {
    const name = supplierName(bone.name);
    if (at(name) >= 0) continue;
    const parent = bone.parent < 0 ? -1 : at(supplierName(skeleton.bones[bone.parent].name));
    const place = bone.name === 'root' ? ([0.04, 0, 0.015] as const) : bone.place;
    bones.push({ ...bone, name, parent: name === 'L_toes' ? -2 : parent, place });
  }
  const toes = at('L_toes');
  bones[toes] = { ...bones[toes], parent: -2 };
  const add = (name: string, parent: string, place: readonly number[]) =>
    bones.push({ ...bones[at(parent)], name, parent: at(parent), place: place as SkeletonBone['place'] });
  for (const text of ['L', 'R']) {
    for (const [chain, letter] of [...'abcde'].entries()) {
      const p = coatPlace(chain, 3);
      add(`${text}_coat_${letter}_end`, `${text}_coat_${letter}_3`, [
        text === 'L' ? p[0] : -p[0],
        p[1],
        p[2],
      ]);
    }
    for (const part of ['hand', 'foot']) {
      const place = bones[at(`${text}_${part}`)].place;
      add(`${text}_${part}_ctrl`, 'base', [place[0], place[1], place[2] + 0.1]);
    }
  }
  add('cap_tip', 'cap', [0, 1.8, 0]);
  add('head_ctrl', 'base', [0, 1.66, 0.3]);
  // The mirrored toes are still under the other foot; parents come first, so they move to the end of the
  // list.
  const moved = { ...bones[toes], parent: -1 };
  bones.splice(toes, 1);
  const fix = bones.map((bone) => ({ ...bone, parent: bone.parent > toes ? bone.parent - 1 : bone.parent }));
  fix.push({ ...moved, parent: fix.findIndex((b) => b.name === 'R_foot') });

  const nodes = skeletonNodes({ id: 'delivered', title: 'Deckhand', bones: fix });
  const lift = nodes.findIndex((node) => node.parent < 0);
  nodes[lift] = {
    ...nodes[lift],
    translation: nodes[lift].translation.map((x, k) => (k === 1 ? x + LIFT_METRES : x)),
  };
  const joints = nodes.map((node) => node.name);
  const slot = new Map(joints.map((joint, i) => [joint, i]));
  const quayName = (mesh: number, joint: number) => clean.nodes[clean.skins[mesh].joints[joint]].name;
  const meshes = clean.meshes.map((mesh, i) => {
    const raised = liftFigure(mesh, mesh.influences ? LIFT_METRES : 0);
    return mesh.influences
      ? {
          ...raised,
          influences: renameAll(mesh.influences, (j) => slot.get(supplierName(quayName(i, j))) as number),
          influenceStorage: { weights: 'f32', joints: 'u8', sets: 2 } as const,
        }
      : scaledBy(mesh, 1.25);
  });
  const [, coat, boots, cap] = meshes;
  meshes[1] = cutSleeves(openFront(crowd(coat, slot)));
  meshes[2] = shortSums(boots);
  meshes[3] = capTip(baldCap(cap), slot.get('cap_tip') as number);
  meshes[1] = coatEnd(meshes[1], slot.get('L_coat_b_end') as number, slot.get('L_coat_b_3') as number);
  const skin = skinOf('rig', nodes, joints);
  const ring = nodes.findIndex((node) => node.name === 'lantern_ring');
  const turn = quatConjugate(decompose(restWorld(nodes), ring * 16).rotation);
  const first = nodes.length;
  nodes.push(
    node({ name: 'body', kind: 'mesh', mesh: 0, skin: 0 }),
    node({ name: 'oilskin coat', kind: 'mesh', mesh: 1, skin: 0 }),
    node({ name: 'boots', kind: 'mesh', mesh: 2, skin: 0 }),
    node({ name: "sou'wester", kind: 'mesh', mesh: 3, skin: 0 }),
    node({ name: 'lantern hook', parent: ring, rotation: turn, scale: [0.8, 0.8, 0.8] }),
    node({ name: 'storm lantern', kind: 'mesh', mesh: 4, parent: first + 4 }),
  );
  const character = characterOf('Deckhand', nodes, meshes, [skin]);
  return otherwiseThanTwins({
    ...character,
    carried: { ...character.carried, images: clean.carried.images },
    clips: [hail(character, supplierName), patrol(character, supplierName, 'L_hand_ctrl')],
  });
}

/** How far the joint of a finger was nudged, metres. */
const NUDGE = 0.012;

/** The right hand with axes half a turn off those of the left one, and a finger’s joint beside where its twin stands. */
function otherwiseThanTwins(character: Character): Character {
  const at = (name: string) => character.nodes.findIndex((candidate) => candidate.name === name);
  const turned = withTurnedAxes(character, new Map([[at('R_hand'), [0, 0, 1, 0] as const]]));
  const finger = at('R_pinky_2');
  const [x, y, z] = restPlace(turned.nodes, finger);
  return withJointsAt(turned, new Map([[finger, [x, y, z + NUDGE] as const]]));
}

function liftFigure(mesh: Mesh, by: number): Mesh {
  const data = positionsOf(mesh).slice();
  for (let i = 1; i < data.length; i += 3) data[i] += by;
  return { ...mesh, attributes: { ...mesh.attributes, POSITION: { ...mesh.attributes.POSITION, data } } };
}

function scaledBy(mesh: Mesh, factor: number): Mesh {
  return {
    ...mesh,
    attributes: {
      ...mesh.attributes,
      POSITION: { ...mesh.attributes.POSITION, data: positionsOf(mesh).map((x) => x * factor) },
    },
  };
}

type Row = [number, number][];

function rowsOf(influences: Influences): Row[] {
  return Array.from({ length: influences.offsets.length - 1 }, (_, vertex) =>
    Array.from(
      { length: influences.offsets[vertex + 1] - influences.offsets[vertex] },
      (_x, k) =>
        [
          influences.joint[influences.offsets[vertex] + k],
          influences.weight[influences.offsets[vertex] + k],
        ] as [number, number],
    ),
  );
}

function renameAll(influences: Influences, to: (joint: number) => number): Influences {
  return influencesFrom(
    rowsOf(influences).map((row) => {
      const sum = new Map<number, number>();
      for (const [j, w] of row) sum.set(to(j), (sum.get(to(j)) ?? 0) + w);
      return [...sum];
    }),
  );
}

/** A mesh with other influences, point by point. */
export function changedRows(
  mesh: Mesh,
  change: (row: Row, vertex: number, x: number, y: number, z: number) => Row,
): Mesh {
  const positions = positionsOf(mesh);
  return {
    ...mesh,
    influences: influencesFrom(
      rowsOf(mesh.influences as Influences).map((row, index) =>
        change(row, index, positions[index * 3], positions[index * 3 + 1], positions[index * 3 + 2]),
      ),
    ),
  };
}

/** A bind that spread too far: the skirt also holds on to both thighs, both shins and the hips. */
function crowd(mesh: Mesh, slot: ReadonlyMap<string, number>): Mesh {
  const extra = ['hips_c', 'L_thigh', 'R_thigh', 'spine_a'].map((name) => slot.get(name) as number);
  return changedRows(mesh, (row, _v, _x, y) => {
    if (y > 0.93 + LIFT_METRES || y < 0.72) return row;
    const more = extra.filter((j) => !row.some(([k]) => k === j)).slice(0, 6 - row.length);
    const share = 0.03;
    return [
      ...row.map(([j, w]) => [j, w * (1 - share * more.length)] as [number, number]),
      ...more.map((j) => [j, share] as [number, number]),
    ];
  });
}

function shortSums(mesh: Mesh): Mesh {
  return changedRows(mesh, (row, _v, x, y) =>
    x > 0 && y > 0.1 && y < 0.17 ? row.map(([j, w]) => [j, w * 0.9]) : row,
  );
}

function baldCap(mesh: Mesh): Mesh {
  return changedRows(mesh, (row, _v, x, y) => (y > 1.806 && Math.abs(x) < 0.024 ? [] : row));
}

function capTip(mesh: Mesh, tip: number): Mesh {
  return changedRows(mesh, (row, _v, x, y, z) =>
    row.length > 0 && y > 1.795 && Math.hypot(x, z) < 0.05
      ? [...row.map(([j, w]) => [j, w * 0.75] as [number, number]), [tip, 0.25]]
      : row,
  );
}

function coatEnd(mesh: Mesh, end: number, from: number): Mesh {
  return changedRows(mesh, (row, _v, _x, y) => {
    const held = row.find(([j]) => j === from);
    return held && y < 0.575 && row.length < 6
      ? [...row.map(([j, w]) => [j, j === from ? w * 0.6 : w] as [number, number]), [end, held[1] * 0.4]]
      : row;
  });
}

/**
 * The front edge as it came from the pattern: the left half has its own points along the middle, a hair away.
 */
function openFront(mesh: Mesh): Mesh {
  const positions = positionsOf(mesh);
  const middle: number[] = [];
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
    if (
      positions[vertex * 3] === 0 &&
      positions[vertex * 3 + 2] > 0 &&
      positions[vertex * 3 + 1] > 1.08 &&
      positions[vertex * 3 + 1] < 1.5
    )
      middle.push(vertex);
  const copy = new Map(middle.map((vertex, i) => [vertex, mesh.vertexCount + i]));
  const corners = mesh.corners.slice();
  for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++) {
    const row = corners.subarray(mesh.polygonOffsets[polygon], mesh.polygonOffsets[polygon + 1]);
    if (row.some((vertex) => positions[vertex * 3] > 1e-6))
      row.forEach((vertex, k) => {
        row[k] = copy.get(vertex) ?? vertex;
      });
  }
  const vertexCount = mesh.vertexCount + middle.length;
  const grown = (attribute: Attribute): Attribute => {
    const data = new (attribute.data.constructor as { new (n: number): VertexArray })(
      vertexCount * attribute.size,
    );
    data.set(attribute.data as never);
    middle.forEach((vertex, i) =>
      data.set(
        attribute.data.subarray(vertex * attribute.size, vertex * attribute.size + attribute.size) as never,
        (mesh.vertexCount + i) * attribute.size,
      ),
    );
    return { ...attribute, data };
  };
  const attributes = Object.fromEntries(
    Object.entries(mesh.attributes).map(([key, attribute]) => [key, grown(attribute)]),
  );
  middle.forEach((_, i) => {
    (attributes.POSITION.data as Float32Array)[(mesh.vertexCount + i) * 3] += 2e-5;
  });
  const rows = rowsOf(mesh.influences as Influences);
  return {
    ...mesh,
    vertexCount,
    attributes,
    corners,
    pieces: mesh.pieces.map((piece) => ({ ...piece, vertexCount })),
    influences: influencesFrom([...rows, ...middle.map((vertex) => rows[vertex])]),
  };
}

function cutSleeves(mesh: Mesh): Mesh {
  const positions = positionsOf(mesh);
  const corners: number[] = [];
  const offsets = [0];
  let polygonStart = 0;
  const pieces = mesh.pieces.map((piece) => {
    const from = offsets.length - 1;
    for (let polygon = piece.polygonStart; polygon < piece.polygonStart + piece.polygonCount; polygon++) {
      const row = Array.from(
        mesh.corners.subarray(mesh.polygonOffsets[polygon], mesh.polygonOffsets[polygon + 1]),
      );
      const x = Math.abs(row.reduce((sum, vertex) => sum + positions[vertex * 3], 0) / row.length);
      if (row.length === 4 && x > 0.38 && x < 0.58) {
        corners.push(row[0], row[1], row[2]);
        offsets.push(corners.length);
        corners.push(row[2], row[3], row[0]);
        offsets.push(corners.length);
      } else {
        corners.push(...row);
        offsets.push(corners.length);
      }
    }
    const out = { ...piece, polygonStart, polygonCount: offsets.length - 1 - from };
    polygonStart += out.polygonCount;
    return out;
  });
  return { ...mesh, corners: Uint32Array.from(corners), polygonOffsets: Uint32Array.from(offsets), pieces };
}
