import { bonesOf } from '../../core/character/hierarchy';
import { skeletonById } from '../../core/anatomy/skeletons';
import { type Skeleton, skeletonOf } from '../../core/anatomy/skeleton';
import type { Crosswalk } from '../../core/anatomy/crosswalk';
import { RemedyError } from '../../core/contracts/remedy';
import { type CrosswalkFile, crosswalkFromFile, crosswalkToFile } from '../../core/rooms/crosswalk/file';
import { posesFor } from '../../core/rooms/crosswalk/poses';
import { prove } from '../../core/rooms/crosswalk/proof';
import { remap } from '../../core/rooms/crosswalk/remap';
import { type Made, type Wire, auditCharacter, makeRevision, need, needBrief, openWire } from '../task';

export interface RemapInput {
  readonly wire: Wire;
  readonly brief: string;
  /** A skeleton of the house, or that of a revision. */
  readonly target: { readonly id: string } | { readonly wire: Wire };
  readonly crosswalk: unknown;
  readonly limit: number;
}

/** What moving the weights made. */
export interface RemapMade extends Made {
  /** The crosswalk as it was understood: what of the one that was sent is kept. */
  readonly crosswalk: CrosswalkFile;
}

/** Moves a revision's weights onto another skeleton. */
export function remapRevision({ wire, brief, target, crosswalk, limit }: RemapInput): RemapMade {
  const before = openWire(wire);
  const wanted: Skeleton =
    'id' in target
      ? need(skeletonById(target.id), `the skeleton “${target.id}”`)
      : skeletonOf(openWire(target.wire));
  const source = skeletonOf(before);
  const rules = rulesOf(crosswalk, source, wanted);
  const {
    character: after,
    report,
    ...rest
  } = remap(before, wanted, rules, {
    limit,
    skins: needBrief(brief).skins,
  });
  const proof = prove({ character: after, report, ...rest }, posesFor(before, rules));
  const made = makeRevision(after, {
    effects: {
      kind: 'remapped',
      weight: report.weight,
      vertices: report.vertices,
      deviation: { max: proof.max, rms: proof.rms, p95: proof.p95 },
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

function rulesOf(file: unknown, source: Skeleton, target: Skeleton): Crosswalk {
  try {
    return crosswalkFromFile(file, source, target);
  } catch (error) {
    const why = error instanceof Error ? error.message : 'it cannot be read';
    throw new RemedyError(`The crosswalk does not fit: ${why}. Suggest again.`);
  }
}
