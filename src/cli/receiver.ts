/** The receiver that a call names, and what it says. */
import { existsSync } from 'node:fs';
import { RECEIVERS, type Receiver, receiverById, receiverFrom } from '../core/rooms/docket/receivers';
import type { Arrived } from '../core/house/arrival';
import type { TrialPose } from '../core/rooms/crosswalk/poses';
import { prove } from '../core/rooms/crosswalk/proof';
import { type LengthUnit, inUnit, unitSign } from '../core/contracts/units';
import { UsageError } from './errors';
import { bytesOf } from './files';

/** A receiver by its id, or from a .json file. */
export function receiverOf(name: string): Receiver {
  if (name.endsWith('.json') && existsSync(name)) return fromFile(name);
  const known = receiverById(name);
  if (!known)
    throw new UsageError(
      `There is no receiver “${name}”; choose one of ${RECEIVERS.map((receiver) => receiver.id).join(', ')}, or a .json file.`,
    );
  return known;
}

function fromFile(name: string): Receiver {
  try {
    return receiverFrom(JSON.parse(new TextDecoder().decode(bytesOf(name))));
  } catch (error) {
    const why = error instanceof Error ? error.message : 'it cannot be read';
    throw new UsageError(`“${name}” is not the settings of a receiver: ${why}.`);
  }
}

/** What a receiver did, and how far the mesh then lies from where it was sent. */
export function arrivalReport(
  receiver: Receiver,
  arrived: Arrived,
  poses: readonly TrialPose[],
  unit: LengthUnit,
) {
  const proof = prove(arrived.compared, poses);
  return {
    receiver: receiver.id,
    said: arrived.said,
    deviation: {
      max: inUnit(proof.max, unit),
      rms: inUnit(proof.rms, unit),
      p95: inUnit(proof.p95, unit),
      unit,
    },
    /** Largest difference, metres. */
    max: proof.max,
  };
}

export type ArrivalReport = ReturnType<typeof arrivalReport>;

/** The same in words. */
export function arrivalText({ title }: Receiver, { said, deviation }: ArrivalReport): string[] {
  const length = (x: number) => `${x.toPrecision(3)} ${unitSign(deviation.unit)}`;
  return [
    `${title} holds it so: largest difference ${length(deviation.max)}, ${length(deviation.rms)} in the mean.`,
    ...said.map((item) => `  ${item.text}`),
    ...(said.length === 0 ? ['  It takes everything as it is.'] : []),
  ];
}
