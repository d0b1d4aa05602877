import { toldOf } from '../../core/contracts/waiver';
import { audit } from '../../core/house/audit';
import { measuredSettings } from '../../core/house/learn';
import type { StandingInput, StandingUnderBrief } from '../../tasks/standing';
import { openWire } from '../task';

/** How a revision stands under a brief that may not be saved yet. */
export function standingOf({ wire, brief, isMoved, handed }: StandingInput): StandingUnderBrief {
  const character = openWire(wire);
  return {
    measured: Object.fromEntries(measuredSettings(character)),
    findings: audit(character, brief, { isMoved, handedOver: handed }).map(toldOf),
  };
}
