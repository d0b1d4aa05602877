/**
 * A share of a character's points, for work that is to give a first answer soon. Points are taken evenly over every
 * mesh in the order of the file, and of every joint those that it moves most come along, so that a finger is not lost
 * in a body of a million points. O(influences).
 */
import { type Influences, heaviestVertices } from '../geometry/influences';
import type { Attribute, Character, Mesh } from './model';

/** A character with some of its points, and which those are. */
export interface SampledCharacter {
  /** The same nodes, skins and clips; meshes of loose points, without polygons. */
  readonly character: Character;
  /** For every mesh, the vertex of the whole mesh that each of its vertices is. */
  readonly vertices: readonly Uint32Array[];
}

/** So many points of every joint come along, those that it moves most. */
const OF_JOINT = 12;

/** How many points are picked, about: of all meshes together, or of each. */
export type SampleSize = { readonly inAll: number } | { readonly ofMesh: number };

/** Picks points of a character evenly, and the heaviest of every joint. */
export function sampleCharacter(character: Character, size: SampleSize): SampledCharacter {
  const total = character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0);
  const strideOf = ({ vertexCount }: Mesh) =>
    Math.max(1, Math.ceil('inAll' in size ? total / size.inAll : vertexCount / size.ofMesh));
  const vertices = character.meshes.map((mesh) => chosenVertices(mesh, strideOf(mesh)));
  const meshes = character.meshes.map((mesh, index) => meshOfVertices(mesh, vertices[index]));
  return { character: { ...character, meshes }, vertices };
}

function chosenVertices({ vertexCount, influences }: Mesh, stride: number): Uint32Array {
  const isChosen = new Uint8Array(vertexCount);
  for (let vertex = 0; vertex < vertexCount; vertex += stride) isChosen[vertex] = 1;
  if (influences && stride > 1)
    for (const vertex of heaviestVertices(influences, OF_JOINT)) isChosen[vertex] = 1;
  let count = 0;
  for (let vertex = 0; vertex < vertexCount; vertex++) count += isChosen[vertex];
  const chosen = new Uint32Array(count);
  for (let vertex = vertexCount - 1; vertex >= 0; vertex--)
    if (isChosen[vertex] === 1) chosen[--count] = vertex;
  return chosen;
}

function meshOfVertices(mesh: Mesh, vertices: Uint32Array): Mesh {
  return {
    ...mesh,
    vertexCount: vertices.length,
    attributes: positionsOnly(mesh.attributes, vertices),
    pieces: [],
    polygonOffsets: new Uint32Array(1),
    corners: new Uint32Array(0),
    influences: mesh.influences && influencesOfVertices(mesh.influences, vertices),
    morphs: mesh.morphs.map((morph) => ({ attributes: positionsOnly(morph.attributes, vertices) })),
  };
}

function positionsOnly(
  attributes: Readonly<Record<string, Attribute>>,
  vertices: Uint32Array,
): Record<string, Attribute> {
  const places = attributes.POSITION;
  if (!places) return {};
  const data = new Float32Array(vertices.length * 3);
  vertices.forEach((vertex, i) => {
    for (let k = 0; k < 3; k++) data[i * 3 + k] = places.data[vertex * 3 + k];
  });
  return { POSITION: { ...places, data } };
}

function influencesOfVertices({ offsets, joint, weight }: Influences, vertices: Uint32Array): Influences {
  const rows = new Uint32Array(vertices.length + 1);
  vertices.forEach((vertex, i) => {
    rows[i + 1] = rows[i] + offsets[vertex + 1] - offsets[vertex];
  });
  const count = rows[vertices.length];
  const out = { offsets: rows, joint: joint.slice(0, count), weight: new Float32Array(count) };
  vertices.forEach((vertex, i) => {
    out.joint.set(joint.subarray(offsets[vertex], offsets[vertex + 1]), rows[i]);
    out.weight.set(weight.subarray(offsets[vertex], offsets[vertex + 1]), rows[i]);
  });
  return out;
}
