/** What the pages of this room tell: which bones pull a choice, how a mesh would be bound, where a copy is found and where a guess. */
import { partsOf } from '../../anatomy/parts';
import { meshNodesOf } from '../../character/hierarchy';
import type { Character, ElementsOf } from '../../character/model';
import { pointsOfVertices } from '../../character/point-weights';
import { pointsOf } from '../../character/points';
import { PART_KIND_WORDS } from '../../character/part-kinds';
import { type BindingWay, lookAtBinding } from './binding';
import { type HeldBy, heldBy } from '../../character/held-by';
import { bindingBones } from './bone-segments';
import type { CarriersBrief } from './kinds';
import { sharesOfMesh } from './steps';

/** A bone that pulls some of what is chosen. */
export interface Pull {
  readonly bone: number;
  readonly name: string;
  /** Points that it pulls. */
  readonly points: number;
  /** Its mean share over all of the choice, and the most that it has of one point. */
  readonly mean: number;
  readonly most: number;
}

export interface Pulls {
  readonly points: number;
  readonly pulls: readonly Pull[];
}

/** The bones that pull chosen vertices, the one that has most of them first. */
export function pullsOf(character: Character, chosen: readonly ElementsOf[]): Pulls {
  const sums = new Map<number, { points: number; sum: number; most: number }>();
  let count = 0;
  for (const { node, ids } of chosen) {
    const { mesh: meshIndex, skin } = character.nodes[node] ?? { mesh: -1, skin: -1 };
    const mesh = character.meshes[meshIndex];
    const shares = mesh && skin >= 0 ? sharesOfMesh(mesh) : null;
    if (!shares) continue;
    const { joints } = character.skins[skin];
    for (const point of pointsOfVertices(mesh, ids)) {
      count++;
      for (let k = shares.offsets[point]; k < shares.offsets[point + 1]; k++) {
        const bone = joints[shares.joint[k]];
        const before = sums.get(bone) ?? { points: 0, sum: 0, most: 0 };
        sums.set(bone, {
          points: before.points + 1,
          sum: before.sum + shares.share[k],
          most: Math.max(before.most, shares.share[k]),
        });
      }
    }
  }
  const pulls = [...sums].map(([bone, { points, sum, most }]): Pull => ({
    bone,
    name: character.nodes[bone].name,
    points,
    mean: sum / count,
    most,
  }));
  return { points: count, pulls: pulls.sort((a, b) => b.mean - a.mean || a.bone - b.bone) };
}

/** The vertices of all points that a bone pulls between two weights, by the node that shows their mesh. */
export function pointsPulled(character: Character, bone: number, least: number, most: number): ElementsOf[] {
  return meshNodesOf(character).flatMap((node): ElementsOf[] => {
    const { mesh: meshIndex, skin } = character.nodes[node];
    const mesh = character.meshes[meshIndex];
    const shares = skin >= 0 ? sharesOfMesh(mesh) : null;
    const joint = skin >= 0 ? character.skins[skin].joints.indexOf(bone) : -1;
    if (!shares || joint < 0) return [];
    const { pointOfVertex } = pointsOf(mesh);
    const ids: number[] = [];
    pointOfVertex.forEach((point, vertex) => {
      const share = shares.shareOf(point, joint);
      if (share > 0 && share >= least && share <= most) ids.push(vertex);
    });
    return ids.length > 0 ? [{ node, ids: Uint32Array.from(ids) }] : [];
  });
}

/** A whole share would be the next bone's number. */
const ALMOST = 0.999;

/**
 * The strongest bone of every vertex, by the node that shows its mesh: the bone's node plus one, and behind the point its share;
 * 0 where nothing pulls.
 */
export function ownersOf(character: Character): Map<number, Float32Array> {
  const out = new Map<number, Float32Array>();
  for (const node of meshNodesOf(character)) {
    const { mesh: meshIndex, skin } = character.nodes[node];
    const mesh = character.meshes[meshIndex];
    const shares = skin >= 0 ? sharesOfMesh(mesh) : null;
    if (!shares) continue;
    const { joints } = character.skins[skin];
    out.set(
      node,
      Float32Array.from(pointsOf(mesh).pointOfVertex, (point) => {
        let best = -1;
        for (let k = shares.offsets[point]; k < shares.offsets[point + 1]; k++)
          if (best < 0 || shares.share[k] > shares.share[best]) best = k;
        return best < 0 ? 0 : joints[shares.joint[best]] + 1 + Math.min(ALMOST, shares.share[best]);
      }),
    );
  }
  return out;
}

/** A mesh that could be bound. */
export interface BindableMesh {
  readonly node: number;
  readonly name: string;
  readonly points: number;
  readonly held: HeldBy;
  readonly parts: number;
}

/** In the order in which meshes are listed. */
const HELD: readonly HeldBy[] = ['loose', 'bound', 'hung'];

/** The meshes that are shown, those that are bound to nothing first. */
export function bindableMeshes(character: Character): BindableMesh[] {
  const parts = partsOf(character);
  const all = meshNodesOf(character).map((node): BindableMesh => {
    const mesh = character.meshes[character.nodes[node].mesh];
    return {
      node,
      name: character.nodes[node].name || mesh.name || `mesh ${node}`,
      points: pointsOf(mesh).pointCount,
      held: heldBy(character, node),
      parts: parts.filter((part) => part.node === node).length,
    };
  });
  return all.sort((a, b) => HELD.indexOf(a.held) - HELD.indexOf(b.held) || b.points - a.points);
}

/** What the look before a bind says of one part. */
export interface PartBinding {
  readonly node: number;
  readonly island: number;
  readonly name: string;
  readonly points: number;
  readonly kind: string | null;
  readonly way: BindingWay;
  readonly why: string;
  /** Any polygon of it stands for it. */
  readonly polygons: Uint32Array;
}

export interface BindingFigures {
  readonly bones: number;
  /** Names of bones that take no part since they lie outside. */
  readonly outside: readonly string[];
  readonly parts: readonly PartBinding[];
  /** Points that lie on others and are not joined with them, by mesh. */
  readonly doubled: readonly { readonly node: number; readonly name: string; readonly points: number }[];
}

/** The look before a bind. */
export function bindingFigures(
  character: Character,
  nodes: readonly number[],
  brief: CarriersBrief,
  bones: readonly number[] | null,
): BindingFigures {
  const look = lookAtBinding(
    character,
    nodes,
    brief,
    bones && bones.length > 0 ? bones : bindingBones(character, brief),
  );
  return {
    bones: look.bones.length,
    outside: look.outside.map((bone) => character.nodes[bone].name),
    parts: look.parts.map(({ part, way, why }) => ({
      node: part.node,
      island: part.island,
      name: part.name,
      points: part.points,
      kind: part.kind ? PART_KIND_WORDS[part.kind].replace(/,.*/, '') : null,
      way,
      why,
      polygons: part.polygons,
    })),
    doubled: [...look.doubled].flatMap(([node, points]) =>
      points > 0 ? [{ node, name: character.nodes[node].name, points }] : [],
    ),
  };
}
