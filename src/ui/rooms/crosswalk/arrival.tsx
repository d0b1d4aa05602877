'use client';

import { OnArrival } from '../../parts/on-arrival';
import type { RemapTrial } from './session';
import { solver } from './solver';

const ask: Parameters<typeof OnArrival>[0]['ask'] = (receiver) => solver().arrive(receiver);

/** The move as a kind of machine will hold it: what it changes and drops, and how far the mesh then lies off. */
export function ArrivalPanel({ trial }: { trial: RemapTrial }) {
  return (
    <div className="h-full overflow-y-auto text-[13px]">
      <OnArrival of={trial} ask={ask} from="the source" />
    </div>
  );
}
