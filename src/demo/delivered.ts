/**
 * The Deckhand as a supplier delivered it: other names, another spine, ends and controls, and the faults of
 * faults.ts.
 */
import type { Attribute, Character, Influences, Mesh, VertexArray } from '../core/character/model';
import { node, positionsOf } from '../core/character/model';
import type { SkeletonBone } from '../core/anatomy/skeleton';
import { decompose, quatConjugate } from '../core/geometry/matrix';
import { restWorld } from '../core/character/hierarchy';
import { influencesFrom } from '../core/geometry/influences';
import { characterOf, skeletonNodes, skinOf } from './assemble';
import { deckhandSkeleton, drawDeckhand, hail } from './deckhand';
import { coatPlace } from './clothes';

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

export function deliveredDeckhand(clean: Character = drawDeckhand()): Character {
  const skeleton = deckhandSkeleton();
  const bones: SkeletonBone[] = [];
  const at = (name: string) => bones.findIndex((b) => b.name === name);
  for (const b of skeleton.bones) {
    const name = supplierName(b.name);
    if (at(name) >= 0) continue;
    const parent = b.parent < 0 ? -1 : at(supplierName(skeleton.bones[b.parent].name));
    const place = b.name === 'root' ? ([0.04, 0, 0.015] as const) : b.place;
    bones.push({ ...b, name, parent: name === 'L_toes' ? -2 : parent, place });
  }
  const toes = at('L_toes');
  bones[toes] = { ...bones[toes], parent: -2 };
  const add = (name: string, parent: string, place: readonly number[]) =>
    bones.push({ ...bones[at(parent)], name, parent: at(parent), place: place as SkeletonBone['place'] });
  for (const s of ['L', 'R']) {
    for (const [c, letter] of [...'abcde'].entries()) {
      const p = coatPlace(c, 3);
      add(`${s}_coat_${letter}_end`, `${s}_coat_${letter}_3`, [s === 'L' ? p[0] : -p[0], p[1], p[2]]);
    }
    for (const part of ['hand', 'foot']) {
      const p = bones[at(`${s}_${part}`)].place;
      add(`${s}_${part}_ctrl`, 'base', [p[0], p[1], p[2] + 0.1]);
    }
  }
  add('cap_tip', 'cap', [0, 1.8, 0]);
  add('head_ctrl', 'base', [0, 1.66, 0.3]);
  // The mirrored toes are still under the other foot; parents come first, so they move to the end of the
  // list.
  const moved = { ...bones[toes], parent: -1 };
  bones.splice(toes, 1);
  const fix = bones.map((b) => ({ ...b, parent: b.parent > toes ? b.parent - 1 : b.parent }));
  fix.push({ ...moved, parent: fix.findIndex((b) => b.name === 'R_foot') });

  const nodes = skeletonNodes({ id: 'delivered', title: 'Deckhand', bones: fix });
  const lift = nodes.findIndex((n) => n.parent < 0);
  nodes[lift] = {
    ...nodes[lift],
    translation: nodes[lift].translation.map((x, k) => (k === 1 ? x + LIFT_METRES : x)),
  };
  const joints = nodes.map((n) => n.name);
  const slot = new Map(joints.map((n, i) => [n, i]));
  const quayName = (mesh: number, joint: number) => clean.nodes[clean.skins[mesh].joints[joint]].name;
  const meshes = clean.meshes.map((m, i) => {
    const raised = liftFigure(m, m.influences ? LIFT_METRES : 0);
    return m.influences
      ? {
          ...raised,
          influences: renameAll(m.influences, (j) => slot.get(supplierName(quayName(i, j))) as number),
          influenceStorage: { weights: 'f32', joints: 'u8', sets: 2 } as const,
        }
      : scaledBy(m, 1.25);
  });
  const [, coat, boots, cap] = meshes;
  meshes[1] = cutSleeves(openFront(crowd(coat, slot)));
  meshes[2] = shortSums(boots);
  meshes[3] = capTip(baldCap(cap), slot.get('cap_tip') as number);
  meshes[1] = coatEnd(meshes[1], slot.get('L_coat_b_end') as number, slot.get('L_coat_b_3') as number);
  const skin = skinOf('rig', nodes, joints);
  const ring = nodes.findIndex((n) => n.name === 'lantern_ring');
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
  return {
    ...character,
    carried: { ...character.carried, images: clean.carried.images },
    clips: [hail(character, supplierName)],
  };
}

function liftFigure(m: Mesh, by: number): Mesh {
  const data = positionsOf(m).slice();
  for (let i = 1; i < data.length; i += 3) data[i] += by;
  return { ...m, attributes: { ...m.attributes, POSITION: { ...m.attributes.POSITION, data } } };
}

function scaledBy(m: Mesh, f: number): Mesh {
  return {
    ...m,
    attributes: {
      ...m.attributes,
      POSITION: { ...m.attributes.POSITION, data: positionsOf(m).map((x) => x * f) },
    },
  };
}

type Row = [number, number][];

function rowsOf(f: Influences): Row[] {
  return Array.from({ length: f.offsets.length - 1 }, (_, v) =>
    Array.from(
      { length: f.offsets[v + 1] - f.offsets[v] },
      (_x, k) => [f.joint[f.offsets[v] + k], f.weight[f.offsets[v] + k]] as [number, number],
    ),
  );
}

function renameAll(f: Influences, to: (joint: number) => number): Influences {
  return influencesFrom(
    rowsOf(f).map((row) => {
      const sum = new Map<number, number>();
      for (const [j, w] of row) sum.set(to(j), (sum.get(to(j)) ?? 0) + w);
      return [...sum];
    }),
  );
}

function changedRows(m: Mesh, change: (row: Row, v: number, x: number, y: number, z: number) => Row): Mesh {
  const p = positionsOf(m);
  return {
    ...m,
    influences: influencesFrom(
      rowsOf(m.influences as Influences).map((row, v) =>
        change(row, v, p[v * 3], p[v * 3 + 1], p[v * 3 + 2]),
      ),
    ),
  };
}

/** A bind that spread too far: the skirt also holds on to both thighs, both shins and the hips. */
function crowd(m: Mesh, slot: ReadonlyMap<string, number>): Mesh {
  const extra = ['hips_c', 'L_thigh', 'R_thigh', 'spine_a'].map((n) => slot.get(n) as number);
  return changedRows(m, (row, _v, _x, y) => {
    if (y > 0.93 + LIFT_METRES || y < 0.72) return row;
    const more = extra.filter((j) => !row.some(([k]) => k === j)).slice(0, 6 - row.length);
    const share = 0.03;
    return [
      ...row.map(([j, w]) => [j, w * (1 - share * more.length)] as [number, number]),
      ...more.map((j) => [j, share] as [number, number]),
    ];
  });
}

function shortSums(m: Mesh): Mesh {
  return changedRows(m, (row, _v, x, y) =>
    x > 0 && y > 0.1 && y < 0.17 ? row.map(([j, w]) => [j, w * 0.9]) : row,
  );
}

function baldCap(m: Mesh): Mesh {
  return changedRows(m, (row, _v, x, y) => (y > 1.806 && Math.abs(x) < 0.024 ? [] : row));
}

function capTip(m: Mesh, tip: number): Mesh {
  return changedRows(m, (row, _v, x, y, z) =>
    row.length > 0 && y > 1.795 && Math.hypot(x, z) < 0.05
      ? [...row.map(([j, w]) => [j, w * 0.75] as [number, number]), [tip, 0.25]]
      : row,
  );
}

function coatEnd(m: Mesh, end: number, from: number): Mesh {
  return changedRows(m, (row, _v, _x, y) => {
    const held = row.find(([j]) => j === from);
    return held && y < 0.575 && row.length < 6
      ? [...row.map(([j, w]) => [j, j === from ? w * 0.6 : w] as [number, number]), [end, held[1] * 0.4]]
      : row;
  });
}

/**
 * The front edge as it came from the pattern: the left half has its own points along the middle, a hair away.
 */
function openFront(m: Mesh): Mesh {
  const p = positionsOf(m);
  const middle: number[] = [];
  for (let v = 0; v < m.vertexCount; v++)
    if (p[v * 3] === 0 && p[v * 3 + 2] > 0 && p[v * 3 + 1] > 1.08 && p[v * 3 + 1] < 1.5) middle.push(v);
  const copy = new Map(middle.map((v, i) => [v, m.vertexCount + i]));
  const corners = m.corners.slice();
  for (let q = 0; q + 1 < m.polygonOffsets.length; q++) {
    const row = corners.subarray(m.polygonOffsets[q], m.polygonOffsets[q + 1]);
    if (row.some((v) => p[v * 3] > 1e-6))
      row.forEach((v, k) => {
        row[k] = copy.get(v) ?? v;
      });
  }
  const vertexCount = m.vertexCount + middle.length;
  const grown = (a: Attribute): Attribute => {
    const data = new (a.data.constructor as { new (n: number): VertexArray })(vertexCount * a.size);
    data.set(a.data as never);
    middle.forEach((v, i) =>
      data.set(a.data.subarray(v * a.size, v * a.size + a.size) as never, (m.vertexCount + i) * a.size),
    );
    return { ...a, data };
  };
  const attributes = Object.fromEntries(Object.entries(m.attributes).map(([k, a]) => [k, grown(a)]));
  middle.forEach((_, i) => {
    (attributes.POSITION.data as Float32Array)[(m.vertexCount + i) * 3] += 2e-5;
  });
  const rows = rowsOf(m.influences as Influences);
  return {
    ...m,
    vertexCount,
    attributes,
    corners,
    pieces: m.pieces.map((x) => ({ ...x, vertexCount })),
    influences: influencesFrom([...rows, ...middle.map((v) => rows[v])]),
  };
}

function cutSleeves(m: Mesh): Mesh {
  const p = positionsOf(m);
  const corners: number[] = [];
  const offsets = [0];
  let polygonStart = 0;
  const pieces = m.pieces.map((piece) => {
    const from = offsets.length - 1;
    for (let q = piece.polygonStart; q < piece.polygonStart + piece.polygonCount; q++) {
      const row = Array.from(m.corners.subarray(m.polygonOffsets[q], m.polygonOffsets[q + 1]));
      const x = Math.abs(row.reduce((s, v) => s + p[v * 3], 0) / row.length);
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
  return { ...m, corners: Uint32Array.from(corners), polygonOffsets: Uint32Array.from(offsets), pieces };
}
