import type { Brief } from '../../core/house/brief';
import { bonesOf } from '../../core/character/hierarchy';
import { skeletonWanted } from '../../core/anatomy/skeletons/wanted';
import { type Skeleton, skeletonOf } from '../../core/anatomy/skeleton';
import { type Crosswalk, hasTarget } from '../../core/anatomy/crosswalk';
import { suggest } from '../../core/anatomy/suggest';
import { RemedyError } from '../../core/contracts/remedy';
import { adopt } from '../../core/rooms/crosswalk/adopt';
import { doubtOf } from '../../core/rooms/crosswalk/doubts';
import { crosswalkFileSchema, crosswalkFromFile, crosswalkToFile } from '../../core/rooms/crosswalk/file';
import { type ProvenMove, provenMove } from '../../core/rooms/crosswalk/proven-move';
import type { RemapInput, RemapMade, CrosswalkOrigin } from '../../tasks/remap';
import type { Tell } from '../../tasks/task';
import { auditCharacter, finishTelling, makeRevision, need, openWire } from '../task';

/** A skeleton by its id, or the one that the brief brings along. */
const skeletonNamed = (id: string, brief: Brief): Skeleton | undefined =>
  skeletonWanted({ skeleton: id, ownSkeleton: brief.ownSkeleton });

/** Moves a revision's weights onto another skeleton. */
export function remapRevision(input: RemapInput, tell: Tell = () => {}): RemapMade {
  const { wire, brief, target, limit, how, motion } = input;
  tell({ stage: 'pairing the bones', share: 0.02 });
  const before = openWire(wire);
  const wanted: Skeleton =
    'id' in target
      ? need(skeletonNamed(target.id, target.brief ?? brief), `the skeleton “${target.id}”`)
      : skeletonOf(openWire(target.wire));
  const source = skeletonOf(before);
  const { rules, from } = walkOf(input, source, wanted);
  const options = { limit, skins: brief.skins, ...how, motions: motion ? [openWire(motion)] : [] };
  const { moved, proof, price } = moveOrSay(() =>
    finishTelling(provenMove(before, wanted, rules, options), tell, 0.05, 0.92),
  );
  const { character: after, report } = moved;
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
    walk: saidOf(rules, from),
    audited: auditCharacter(after, brief, { tell, from: 0.92, to: 1 }),
  };
}

/** What cannot be done for these two skeletons is one sentence. */
function moveOrSay(work: () => ProvenMove): ProvenMove {
  try {
    return work();
  } catch (error) {
    throw new RemedyError(error instanceof Error ? error.message : String(error));
  }
}

/** The rules that were given; else what was saved for nearly this skeleton; else what is suggested. */
function walkOf(
  { crosswalk, saved = [] }: RemapInput,
  source: Skeleton,
  target: Skeleton,
): { rules: Crosswalk; from: string } {
  if (crosswalk !== undefined) return { rules: rulesOf(crosswalk, source, target), from: 'given' };
  const files = saved.map((file) => crosswalkFileSchema.validateSync(file));
  const adopted = adopt(files, source, target);
  return adopted
    ? { rules: adopted.crosswalk, from: adopted.from }
    : { rules: suggest(source, target), from: 'suggested' };
}

const saidOf = (rules: Crosswalk, from: string): CrosswalkOrigin => ({
  from,
  bones: rules.length,
  paired: rules.filter(hasTarget).length,
  unsure: rules.filter((rule) => doubtOf(rule, null, Infinity) !== null).length,
});

function rulesOf(file: unknown, source: Skeleton, target: Skeleton): Crosswalk {
  try {
    return crosswalkFromFile(file, source, target);
  } catch (error) {
    const why = error instanceof Error ? error.message : 'it cannot be read';
    throw new RemedyError(`The crosswalk does not fit: ${why}. Suggest again.`);
  }
}
