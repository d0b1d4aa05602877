import { bonesOf } from '../../core/character/hierarchy';
import { skeletonById } from '../../core/anatomy/skeletons';
import { type Skeleton, skeletonOf } from '../../core/anatomy/skeleton';
import type { Crosswalk } from '../../core/anatomy/crosswalk';
import { RemedyError } from '../../core/contracts/remedy';
import type { MoveHow } from '../../core/contracts/step';
import { finish } from '../../core/motion/example';
import { type CrosswalkFile, crosswalkFromFile, crosswalkToFile } from '../../core/rooms/crosswalk/file';
import { posesFor } from '../../core/rooms/crosswalk/poses';
import { prove } from '../../core/rooms/crosswalk/proof';
import { priceOf } from '../../core/rooms/crosswalk/price';
import { type Remapped, remap } from '../../core/rooms/crosswalk/remap';
import { type Made, type Wire, auditCharacter, makeRevision, need, needBrief, openWire } from '../task';

export interface RemapInput {
  readonly wire: Wire;
  readonly brief: string;
  /** A skeleton of the house, or that of a revision. */
  readonly target: { readonly id: string } | { readonly wire: Wire };
  readonly crosswalk: unknown;
  readonly limit: number;
  readonly how: MoveHow;
}

/** What moving the weights made. */
export interface RemapMade extends Made {
  /** The crosswalk as it was understood: what of the one that was sent is kept. */
  readonly crosswalk: CrosswalkFile;
}

/** Moves a revision's weights onto another skeleton. */
export function remapRevision({ wire, brief, target, crosswalk, limit, how }: RemapInput): RemapMade {
  const before = openWire(wire);
  const wanted: Skeleton =
    'id' in target
      ? need(skeletonById(target.id), `the skeleton “${target.id}”`)
      : skeletonOf(openWire(target.wire));
  const source = skeletonOf(before);
  const rules = rulesOf(crosswalk, source, wanted);
  const moved = moveOrSay(() =>
    remap(before, wanted, rules, { limit, skins: needBrief(brief).skins, ...how }),
  );
  const { character: after, report } = moved;
  const poses = posesFor(moved.model, rules);
  const proof = prove(moved, poses);
  const price = finish(priceOf(moved, poses, proof));
  const made = makeRevision(after, {
    effects: {
      kind: 'remapped',
      weight: report.weight,
      vertices: report.vertices,
      deviation: { max: proof.max, rms: proof.rms, p95: proof.p95 },
      price,
      poses: proof.compared === 0 ? 0 : proof.poses.length,
      bones: [bonesOf(before).length, bonesOf(after).length],
    },
    notes: report.notes,
    from: { wire, character: before },
  });
  return {
    ...made,
    crosswalk: crosswalkToFile(rules, source, wanted),
    audited: auditCharacter(after, needBrief(brief)),
  };
}

/** What cannot be done for these two skeletons is one sentence. */
function moveOrSay(work: () => Remapped): Remapped {
  try {
    return work();
  } catch (error) {
    throw new RemedyError(error instanceof Error ? error.message : String(error));
  }
}

function rulesOf(file: unknown, source: Skeleton, target: Skeleton): Crosswalk {
  try {
    return crosswalkFromFile(file, source, target);
  } catch (error) {
    const why = error instanceof Error ? error.message : 'it cannot be read';
    throw new RemedyError(`The crosswalk does not fit: ${why}. Suggest again.`);
  }
}
