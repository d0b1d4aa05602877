import { briefKey } from '../../core/house/brief';
import { unpack } from '../../core/character/bundle';
import type { Finding } from '../../core/contracts/finding';
import { applyWaivers } from '../../core/contracts/waiver';
import { audit, silenceText } from '../../core/house/audit';
import type { Character } from '../../core/character/model';
import { arrivedAsItIs } from '../../core/house/arrival';
import { trialPoses } from '../../core/rooms/crosswalk/poses';
import { prove } from '../../core/rooms/crosswalk/proof';
import type { Receiver } from '../../core/rooms/docket/receivers';
import { type ReceiverFacts, reportHtml } from '../../core/rooms/docket/report';
import { measuresOf } from '../../core/rooms/placement/measures';
import type { ReportInput } from '../../tasks/report';
import { openWire } from '../task';

/** The report of a revision as HTML. */
export function reportRevision(input: ReportInput): { html: string } {
  const { wire, brief, facts, picture, audited } = input;
  const character = openWire(wire);
  const found =
    audited?.brief === briefKey(brief)
      ? (unpack(audited.findings.slice().buffer) as Finding[])
      : audit(character, brief);
  const { open, waived } = applyWaivers(found, input.waivers, input.moment);
  const measures = measuresOf(character, brief);
  const receiver = input.receiver ? receiverFacts(character, input.receiver) : null;
  return {
    html: reportHtml({
      character,
      brief,
      measures,
      findings: open,
      waived,
      notAsked: silenceText(character, brief),
      facts,
      picture,
      receiver,
    }),
  };
}

export function receiverFacts(character: Character, receiver: Receiver): ReceiverFacts {
  const { said, compared } = arrivedAsItIs(character, receiver);
  const { max, rms, p95 } = prove(compared, trialPoses(character));
  return { title: receiver.title, about: receiver.about, said, deviation: { max, rms, p95 } };
}
