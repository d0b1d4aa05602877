/**
 * How far a receiver holds every mesh from where it was sent, over rest, a few poses and moments of the clips. Points
 * are taken evenly where a mesh has very many; what the brief's own checks of weights tell already is left out.
 */
import { placedPoints } from '../../character/deform';
import { placedMeshes } from '../../character/measure';
import type { Character, Influences, Mesh } from '../../character/model';
import { sampleCharacter } from '../../character/sample';
import { transferPose } from '../../motion/pose';
import { probedWorld, probesOf } from '../../motion/probe';
import { receive } from './receive';
import type { Receiver } from './receivers';

/** One mesh as it is held: the node that showed it when it was sent, and how far its points lie off, metres. */
export interface HeldMesh {
  readonly node: number;
  readonly max: number;
}

/** Points of a mesh that are looked at, at most. */
const MOST_POINTS = 4000;

/** How far weights may sum beside one, and how many there may be, before the brief's own checks tell. */
export interface ToldOfWeights {
  readonly sumTolerance: number;
  readonly influences: number;
}

/** What a receiver makes of a character, mesh by mesh. */
export function deviationsOnArrival(
  character: Character,
  receiver: Receiver,
  told: ToldOfWeights,
): readonly HeldMesh[] {
  // Draws only cut a mesh up: where its points are held is the same without.
  const whole: Receiver = { ...receiver, bonesPerDraw: null, verticesPerDraw: null };
  const sent = sampleCharacter(character, { ofMesh: MOST_POINTS }).character;
  const { character: held, from } = receive(sent, whole);
  const arrived = new Map(placedMeshes(held).map((placed) => [from[placed.node], placed]));
  const pairs = placedMeshes(sent).flatMap((before) => {
    const after = arrived.get(before.node);
    if (after?.points.length !== before.points.length) return [];
    return [{ before, after, vertices: untold(before.mesh, told) }];
  });
  const most = pairs.map(() => 0);
  for (const probe of probesOf(character, 2)) {
    const world = probedWorld(character, probe);
    const moved = transferPose(sent, world, held, from);
    pairs.forEach(({ before, after, vertices }, k) => {
      const a = placedPoints(before.mesh, before.skin, before.node, world);
      const b = placedPoints(after.mesh, after.skin, after.node, moved);
      for (const vertex of vertices) {
        const [x, y, z] = [
          a[vertex * 3] - b[vertex * 3],
          a[vertex * 3 + 1] - b[vertex * 3 + 1],
          a[vertex * 3 + 2] - b[vertex * 3 + 2],
        ];
        const square = x * x + y * y + z * z;
        if (square > most[k]) most[k] = square;
      }
    });
  }
  return pairs.map(({ before }, k) => ({ node: before.node, max: Math.sqrt(most[k]) }));
}

/** The vertices whose weights no check of the brief tells of. */
const untold = ({ vertexCount, influences }: Mesh, told: ToldOfWeights): number[] =>
  Array.from({ length: vertexCount }, (_, value) => value).filter(
    (vertex) => !influences || !isTold(influences, vertex, told),
  );

function isTold(
  otherInfluences: Influences,
  vertex: number,
  { sumTolerance, influences }: ToldOfWeights,
): boolean {
  let [sum, live] = [0, 0];
  for (let k = otherInfluences.offsets[vertex]; k < otherInfluences.offsets[vertex + 1]; k++) {
    sum += otherInfluences.weight[k];
    if (otherInfluences.weight[k] > 0) live++;
  }
  return live > influences || Math.abs(sum - 1) > sumTolerance;
}
