import { briefKey } from '../../core/house/brief';
import { unpack } from '../../core/character/bundle';
import type { Finding } from '../../core/contracts/finding';
import { applyWaivers } from '../../core/contracts/waiver';
import { audit, checksInMotion, inOrderOfWork, silenceText } from '../../core/house/audit';
import type { Character } from '../../core/character/model';
import { arrivedAsItIs } from '../../core/house/arrival';
import { trialPoses } from '../../core/rooms/crosswalk/poses';
import { prove } from '../../core/rooms/crosswalk/proof';
import type { Receiver } from '../../core/rooms/docket/receivers';
import { type ReceiverFacts, reportHtml } from '../../core/rooms/docket/report';
import { measuresOf } from '../../core/rooms/placement/measures';
import { bendingOf } from '../../core/rooms/trials/bending';
import type { ReportInput } from '../../tasks/report';
import { openWire } from '../task';

/** The report of a revision as HTML. */
export function reportRevision(input: ReportInput): { html: string } {
  const { wire, brief, facts, picture } = input;
  const character = openWire(wire);
  const found = findingsOver(character, input);
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
      notAsked: silenceText(character, brief, { isMoved: true }),
      facts,
      bending: brief.trials && bendingOf(character, brief.trials),
      picture,
      receiver,
    }),
  };
}

/** What an audit of the revision has found already, and what shows when it is moved: that is asked here. */
function findingsOver(character: Character, { brief, audited, handed }: ReportInput): Finding[] {
  if (audited?.brief !== briefKey(brief))
    return audit(character, brief, { isMoved: true, handedOver: handed });
  const inMotion = checksInMotion(brief);
  const asked = new Set(inMotion.map(({ id }) => id));
  const known = unpack(audited.findings.slice().buffer) as Finding[];
  return inOrderOfWork([
    ...known.filter(({ check }) => !asked.has(check)),
    ...audit(character, brief, { checks: inMotion, isMoved: true, handedOver: handed }),
  ]);
}

export function receiverFacts(character: Character, receiver: Receiver): ReceiverFacts {
  const { said, compared } = arrivedAsItIs(character, receiver);
  const { max, rms, p95 } = prove(compared, trialPoses(character));
  return { title: receiver.title, about: receiver.about, said, deviation: { max, rms, p95 } };
}
