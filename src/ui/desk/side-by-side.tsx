'use client';

import { useEffect, useState } from 'react';
import { type Gravity, GRAVITIES, countGravity } from '@/core/contracts/finding';
import { ROOM_WORDS } from '@/core/contracts/rooms';
import { type FindingTold, type Waived, applyWaivers } from '@/core/contracts/waiver';
import type { Brief } from '@/core/house/brief';
import { CHECKS } from '@/core/house/registry';
import { standUnder } from '@/routes/briefs';
import { call, messageOf } from '../kit/api';
import { Button, Chip } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import { today } from '../kit/format';
import { Mark, Tally } from '../kit/gravity';
import { useBriefs } from '../state/briefs';
import { setBrief } from '../state/steps';
import { setDesk, useDesk } from '../state/store';
import type { CharacterRecord } from '@/routes/characters';

const close = () => setDesk({ dialog: null });

/** Most briefs side by side. */
const MOST = 5;

/** How the revision stands under a brief; a sentence where that could not be found out. */
type Stands = Waived<FindingTold> | string;

/** One character under several briefs, check by check. */
export function SideBySide() {
  const isOpen = useDesk((state) => state.dialog === 'briefs');
  const record = useDesk((state) => state.record);
  if (!isOpen || !record) return null;
  return (
    <PaperDialog
      title="Under several briefs"
      about={`${record.name}, revision ${numberOf(record)}: what each brief finds on it. What is waived is not counted.`}
      width={940}
      onClose={close}
    >
      <Table record={record} />
    </PaperDialog>
  );
}

const numberOf = ({ revisions, head }: CharacterRecord) =>
  revisions.find((revision) => revision.id === head)?.number ?? 1;

function Table({ record }: { record: CharacterRecord }) {
  const briefs = useBriefs();
  const [chosen, setChosen] = useState<readonly string[]>([record.brief]);
  const stands = useStands(record, briefs);
  const columns = briefs.filter((brief) => chosen.includes(brief.id));
  const toggle = (id: string) =>
    setChosen((was) => (was.includes(id) ? was.filter((text) => text !== id) : [...was, id].slice(-MOST)));
  return (
    <>
      <div role="group" aria-label="Briefs side by side" className="mt-3 flex flex-wrap gap-1.5">
        {briefs.map((brief) => (
          <Chip key={brief.id} on={chosen.includes(brief.id)} onClick={() => toggle(brief.id)}>
            {brief.title}
          </Chip>
        ))}
      </div>
      <table className="mt-4 w-full table-fixed text-[13px]">
        <thead>
          <tr className="align-top">
            <th scope="col" className="w-[230px] pb-2 text-left font-normal text-soft">
              Check
            </th>
            {columns.map((column) => (
              <th key={column.id} scope="col" className="px-2 pb-2 text-left font-semibold">
                {column.title}
                <span className="mt-1 block text-[12.5px]">
                  <Standing stands={stands.get(column.id)} />
                </span>
                {column.id === record.brief ? (
                  <span className="font-normal text-soft">it is held against this one</span>
                ) : (
                  <Button
                    small
                    className="mt-1"
                    onClick={() => {
                      close();
                      void setBrief(column);
                    }}
                  >
                    Hold it against this one
                  </Button>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rowsOf(columns, stands).map(({ id, title, room, cells }) => (
            <tr key={id} className="border-t border-rule">
              <th scope="row" className="py-1.5 pr-2 text-left font-normal">
                {title} <span className="text-soft">{room}</span>
              </th>
              {cells.map((found, i) => (
                <td key={columns[i].id} className="px-2 py-1.5">
                  <Found found={found} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** Asks for one brief after the other, the one at hand first. */
function useStands(record: CharacterRecord, briefs: readonly Brief[]): ReadonlyMap<string, Stands> {
  const [stands, setStands] = useState<ReadonlyMap<string, Stands>>(new Map());
  const { head, waivers, brief: own } = record;
  const number = numberOf(record);
  useEffect(() => {
    const cancel = new AbortController();
    const put = (id: string, stands: Stands) => setStands((was) => new Map(was).set(id, stands));
    const order = [...briefs].sort((a, b) => Number(b.id === own) - Number(a.id === own));
    const ask = async () => {
      for (const brief of order) {
        if (cancel.signal.aborted) return;
        try {
          const { findings } = await call(standUnder, { id: head, brief }, cancel.signal);
          const standing = waivers.filter((waiver) => !waiver.withdrawn).map((waiver) => waiver.waiver);
          put(brief.id, applyWaivers(findings, standing, { today: today(), revision: number }));
        } catch (error) {
          if (!cancel.signal.aborted) put(brief.id, messageOf(error));
        }
      }
    };
    void ask();
    return () => cancel.abort();
  }, [head, waivers, own, number, briefs]);
  return stands;
}

function Standing({ stands }: { stands: Stands | undefined }) {
  if (stands === undefined) return <span className="font-normal text-soft">looking …</span>;
  if (typeof stands === 'string') return <span className="font-normal text-stops">{stands}</span>;
  return (
    <>
      <Tally counts={countGravity(stands.open)} empty="nothing open" />
      {stands.waived.length > 0 && (
        <span className="ml-2 whitespace-nowrap font-normal text-soft">{stands.waived.length} waived</span>
      )}
    </>
  );
}

/** Every check that finds something under one of the briefs. */
function rowsOf(columns: readonly Brief[], stands: ReadonlyMap<string, Stands>) {
  const of = (brief: Brief, check: string) => {
    const otherStands = stands.get(brief.id);
    return otherStands && typeof otherStands !== 'string'
      ? otherStands.open.filter((finding) => finding.check === check)
      : [];
  };
  return CHECKS.flatMap(({ id, title, room }) => {
    const cells = columns.map((column) => (column.checks?.[id] === 'off' ? null : of(column, id)));
    const isFound = cells.some((cell) => cell && cell.length > 0);
    return isFound ? [{ id, title, room: ROOM_WORDS[room], cells }] : [];
  });
}

/** What a check finds under a brief: its gravest mark, and what it says; a dash where nothing, or nobody asks. */
function Found({ found }: { found: readonly FindingTold[] | null }) {
  if (found === null) return <span className="text-soft">not asked</span>;
  const gravity = GRAVITIES.find((gravity: Gravity) => found.some((finding) => finding.gravity === gravity));
  if (!gravity) return <span className="text-fine">✓</span>;
  const first = found.find((finding) => finding.gravity === gravity);
  return (
    <span className="flex gap-2" title={found.map((finding) => finding.message).join('\n')}>
      <span className="pt-1">
        <Mark gravity={gravity} />
      </span>
      <span className="line-clamp-2 [overflow-wrap:anywhere]">
        {first?.message}
        {found.length > 1 && <span className="text-soft"> and {found.length - 1} more</span>}
      </span>
    </span>
  );
}
