import { type FindingTold, toldOf } from '../../core/contracts/waiver';
import { audit } from '../../core/house/audit';
import type { Brief } from '../../core/house/brief';
import { measuredSettings } from '../../core/house/learn';
import { type Wire, openWire } from '../task';

export interface StandingInput {
  readonly wire: Wire;
  readonly brief: Brief;
}

/** What checks measure of a revision, and what they find under a brief. */
export interface StandingUnderBrief {
  readonly measured: Readonly<Record<string, unknown>>;
  readonly findings: readonly FindingTold[];
}

/** How a revision stands under a brief that may not be saved yet. */
export function standingOf({ wire, brief }: StandingInput): StandingUnderBrief {
  const character = openWire(wire);
  return {
    measured: Object.fromEntries(measuredSettings(character)),
    findings: audit(character, brief).map(toldOf),
  };
}
