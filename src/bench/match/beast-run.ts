/** Beasts on four legs onto each other: whether every bone of a limb goes to the same limb. */
import { targetsOf } from '../../core/anatomy/crosswalk';
import { suggest } from '../../core/anatomy/suggest';
import { type Beast, makeBeast } from './beasts';
import { makeRandom } from './figures';

/** Limbs that are judged. */
const JUDGED = /^(front leg|hind leg|neck|head) /;

/** What came of one beast onto another. */
export interface BeastCase {
  readonly source: Beast;
  readonly target: Beast;
  readonly isNamed: boolean;
  /** Bones of limbs that the target has as well, and those of them that go to the same limb. */
  readonly wanted: number;
  readonly right: number;
  /** Bones said to have no counterpart. */
  readonly lost: number;
  /** Counterparts that were said at 0.9 and more, of all bones, and those of them that are another limb's. */
  readonly sure: number;
  readonly sureWrong: number;
  readonly wrong: readonly string[];
}

/** So many beasts, each onto another one. */
export function runBeasts(seed: number, count: number): BeastCase[] {
  const random = makeRandom(seed);
  return Array.from({ length: count }, () => caseOf(makeBeast(random), makeBeast(random)));
}

function caseOf(source: Beast, target: Beast): BeastCase {
  const has = new Set(target.limbs);
  const tally = { wanted: 0, right: 0, lost: 0, sure: 0, sureWrong: 0 };
  const wrong: string[] = [];
  const nameOf = (b: number) => `${target.skeleton.bones[b].name} (${target.limbs[b]})`;
  for (const rule of suggest(source.skeleton, target.skeleton)) {
    const limb = source.limbs[rule.source];
    const to = targetsOf(rule);
    const isSame = to.length > 0 && to.every((b) => target.limbs[b] === limb);
    const isJudged = JUDGED.test(limb) && has.has(limb) && !source.isTip[rule.source];
    if (isJudged) {
      tally.wanted++;
      if (isSame) tally.right++;
      else if (to.length === 0) tally.lost++;
      if (!isSame)
        wrong.push(
          `${source.skeleton.bones[rule.source].name} (${limb}) → ${to.map(nameOf).join(', ') || rule.kind} ${rule.confidence.toFixed(2)}`,
        );
    }
    if (rule.kind !== 'carry' || rule.confidence < 0.9) continue;
    if (!JUDGED.test(limb) && !to.some((b) => JUDGED.test(target.limbs[b]))) continue;
    tally.sure++;
    if (!isSame) tally.sureWrong++;
  }
  const isNamed = source.speaks !== 'nothing' && target.speaks !== 'nothing';
  return { source, target, isNamed, ...tally, wrong };
}
