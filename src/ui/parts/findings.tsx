'use client';

import clsx from 'clsx';
import { ChevronDown, ChevronLeft, ChevronRight } from 'lucide-react';
import { type ReactNode, memo, useEffect, useMemo, useRef, useState } from 'react';
import type { Evidence, Finding, Gravity } from '@/core/contracts/finding';
import { ROOM_WORDS } from '@/core/contracts/rooms';
import { callsOfKind } from '@/core/house/of-kind';
import { checkById } from '@/core/house/registry';
import { afterPicture } from '../kit/after-picture';
import { Button } from '../kit/button';
import { numberText, oneLine, sentence, withUnit } from '../kit/format';
import { Mark } from '../kit/gravity';
import { IconButton } from '../kit/icon-button';
import { type RovingItem, useRoving } from '../kit/roving';
import { chooseFinding, goToRoom, stepElement } from '../state/choose';
import { setDesk, useDesk } from '../state/store';
import { RemedyBox } from './remedy-box';
import type { Room } from './room';
import { Waiving } from './waive';

const COUNT_WORDS = { vertex: 'pts', edge: 'edges', polygon: 'faces', bone: 'bones', node: 'nodes' } as const;

/** How many letters of a measured value a row has room for. */
const ROOM = 16;

/** Findings of one check beyond this many are one row that opens. */
const MOST_APART = 5;

interface Gathered {
  readonly key: string;
  readonly title: string;
  readonly findings: readonly Finding[];
}

/** A row of the list: a finding, or many of one check and one gravity, closed or open over its own rows. */
type ListRow =
  | { readonly kind: 'one'; readonly finding: Finding; readonly isInside: boolean }
  | { readonly kind: 'many'; readonly many: Gathered; readonly isOpen: boolean };

/** The rows that are seen, with the findings of one kind gathered where there are many. */
function rowsOf(findings: readonly Finding[], open: ReadonlySet<string>): ListRow[] {
  const kinds = new Map<string, Finding[]>();
  for (const finding of findings) {
    const key = `${finding.check} ${finding.gravity}`;
    kinds.set(key, [...(kinds.get(key) ?? []), finding]);
  }
  return [...kinds].flatMap(([key, some]): ListRow[] => {
    const one = (isInside: boolean) => some.map((finding) => ({ kind: 'one' as const, finding, isInside }));
    if (some.length <= MOST_APART) return one(false);
    const title = checkById(some[0].check)?.title ?? some[0].check;
    const isOpen = open.has(key);
    const many = { kind: 'many' as const, many: { key, title, findings: some }, isOpen };
    return isOpen ? [many, ...one(true)] : [many];
  });
}

/** The row that stands for a finding: its own, or the closed one that it is gathered in. */
const indexOfRow = (rows: readonly ListRow[], chosen: string | null): number =>
  rows.findIndex((row) =>
    row.kind === 'one'
      ? row.finding.key === chosen
      : !row.isOpen && row.many.findings.some((finding) => finding.key === chosen),
  );

/**
 * The findings of a room: one stop for Tab, arrows inside. What is to be said of the chosen one stands in `children`,
 * which opens in its row.
 */
export const FindingList = memo(function FindingList({
  findings,
  children,
}: {
  findings: readonly Finding[];
  children: ReactNode;
}) {
  const chosen = useDesk((state) => state.chosen);
  const wantsFocus = useDesk((state) => state.wantsFocus);
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const rows = useMemo(() => rowsOf(findings, open), [findings, open]);
  const at = indexOfRow(rows, chosen);
  const { list, item, focus } = useRoving(rows.length, at, (i) => {
    const row = rows[i];
    chooseFinding(row.kind === 'one' ? row.finding.key : row.many.findings[0].key);
  });
  useEffect(() => {
    if (!wantsFocus || at < 0) return;
    focus(at);
    setDesk({ wantsFocus: false });
  });
  const toggle = (key: string) =>
    setOpen((was) => new Set(was.has(key) ? [...was].filter((otherKey) => otherKey !== key) : [...was, key]));
  return (
    <ul {...list}>
      {rows.map((row, i) =>
        row.kind === 'one' ? (
          <li key={row.finding.key} className={row.isInside ? 'pl-4' : undefined}>
            <FindingRow finding={row.finding} isChosen={i === at} roving={item(i)} />
            {i === at && children}
          </li>
        ) : (
          <li key={row.many.key}>
            <GatheredRow
              many={row.many}
              isOpen={row.isOpen}
              place={i === at ? row.many.findings.findIndex((finding) => finding.key === chosen) : -1}
              roving={item(i)}
              onToggle={() => toggle(row.many.key)}
            />
            {i === at && <ChosenOfMany many={row.many} chosen={chosen} />}
            {i === at && children}
          </li>
        ),
      )}
    </ul>
  );
});

/** Which of many is chosen, in its own words, under the row that stands for all of them. */
function ChosenOfMany({ many, chosen }: { many: Gathered; chosen: string | null }) {
  const finding = many.findings.find((finding) => finding.key === chosen);
  return finding ? (
    <p className="line-clamp-4 px-[18px] pt-2 text-[14px] [overflow-wrap:anywhere]" title={finding.message}>
      {sentence(finding.message)}
    </p>
  ) : null;
}

const toneOfRow = (isChosen: boolean) =>
  isChosen ? 'bg-damson-wash shadow-[inset_3px_0_0_var(--damson)]' : 'hover:bg-wash';

/** Many findings of one check. `place`: which of them is chosen while it is closed; −1 for none. */
function GatheredRow({
  many: { title, findings },
  isOpen,
  place,
  roving,
  onToggle,
}: {
  many: Gathered;
  isOpen: boolean;
  place: number;
  roving: RovingItem;
  onToggle: () => void;
}) {
  return (
    <button
      type="button"
      {...roving}
      onClick={onToggle}
      aria-expanded={isOpen}
      className={clsx(
        'flex w-full gap-3 border-b border-rule px-[18px] py-2 text-left transition-colors',
        toneOfRow(place >= 0),
      )}
    >
      <span className="pt-1">
        <Mark gravity={findings[0].gravity} />
      </span>
      <span className={clsx('min-w-0 flex-1', place >= 0 && 'font-semibold')}>
        {title}
        {place >= 0 && (
          <span className="block text-[13px] font-normal text-soft">
            {place + 1} of {findings.length} is chosen
          </span>
        )}
      </span>
      <span className="mono shrink-0 pt-0.5">{findings.length} ×</span>
      <ChevronDown
        size={16}
        aria-hidden
        className={clsx('mt-1 shrink-0 text-soft transition-transform', isOpen && 'rotate-180')}
      />
    </button>
  );
}

const FindingRow = memo(function FindingRow({
  finding,
  isChosen,
  roving,
}: {
  finding: Finding;
  isChosen: boolean;
  roving: RovingItem;
}) {
  return (
    <button
      type="button"
      {...roving}
      onClick={() => chooseFinding(finding.key)}
      aria-pressed={isChosen}
      className={clsx(
        'flex w-full gap-3 px-[18px] py-2 text-left transition-colors',
        !isChosen && 'border-b border-rule',
        toneOfRow(isChosen),
      )}
    >
      <span className="pt-1">
        <Mark gravity={finding.gravity} />
      </span>
      <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">
        <span
          className={clsx('leading-snug', isChosen ? 'line-clamp-5 font-semibold' : 'line-clamp-2')}
          title={finding.message}
        >
          {sentence(finding.message)}
        </span>
        {finding.subject.kind !== 'character' && !finding.message.includes(finding.subject.name) && (
          <span className="block text-[13px] text-soft">{finding.subject.name}</span>
        )}
      </span>
      <span className="mono shrink-0 pt-0.5">{figureOf(finding)}</span>
    </button>
  );
});

/** The number at the end of a row: how many are concerned, or what was measured. */
function figureOf(finding: Finding): string {
  const kind = finding.elements[0]?.kind;
  // What is counted in a word of its own is told by it: gaps, not the edges round them.
  const isCounted = finding.count > 1 && finding.measured !== finding.count;
  if (isCounted) return `${numberText(finding.count)} ${kind ? COUNT_WORDS[kind] : ''}`;
  return withUnit(finding.measured, finding.unit === 'x' ? '×' : finding.unit).slice(0, ROOM);
}

/**
 * What is to be said of the chosen finding, opened in its row: the first remedy with its button in sight, then why it
 * matters and its evidence, then other remedies.
 */
export const ChosenFinding = memo(function ChosenFinding({
  finding,
  forms,
}: {
  finding: Finding;
  forms: Room['forms'];
}) {
  const [active, setActive] = useState(0);
  const findings = useDesk((state) => state.findings);
  const top = useRef<HTMLDivElement>(null);
  // The row and the first button come into sight together, wherever in the list they stand.
  useEffect(
    () =>
      afterPicture(() => {
        const row = top.current?.closest('li');
        if (!row || !top.current) return;
        const frame = row.closest('aside')?.getBoundingClientRect();
        const button = top.current.querySelector('button') ?? top.current;
        if (frame && button.getBoundingClientRect().bottom > frame.bottom)
          row.scrollIntoView({ block: 'start' });
      }),
    [finding.key],
  );
  const alike = useMemo(
    () => finding.remedies.map((call) => callsOfKind(findings ?? [], finding, call.id)),
    [findings, finding],
  );
  const boxes = finding.remedies.map((call, i) => {
    const Form = forms?.[call.id];
    if (Form) return <Form key={i} call={call} />;
    return (
      <RemedyBox key={i} call={call} active={i === active} onActive={() => setActive(i)} alike={alike[i]} />
    );
  });
  return (
    <section
      aria-label="The chosen finding"
      className="flow-root border-b border-rule px-[18px] pb-3 shadow-[inset_3px_0_0_var(--damson)]"
    >
      <div ref={top}>{boxes[0] ?? <Advice finding={finding} />}</div>
      <p className="mt-2.5 text-[13.5px] text-soft">{finding.why}</p>
      {finding.evidence.length > 0 && <EvidenceTable finding={finding} />}
      <Walk finding={finding} />
      {boxes.slice(1)}
      <Waiving finding={finding} />
    </section>
  );
});

/** What to do about a finding that has no remedy here, and the way to the room where it is mended. */
function Advice({ finding }: { finding: Finding }) {
  const check = checkById(finding.check);
  const room = check?.leadsTo;
  return (
    <div className="mt-2.5 rounded-lg border border-rule px-3 py-2 text-[13px] text-soft">
      <p>
        {check?.advice ??
          'This one is mended where it was made: note it for the supplier; the report names it.'}
      </p>
      {room && (
        <Button small className="mt-2" onClick={() => goToRoom(room)}>
          Open {ROOM_WORDS[room]}
        </Button>
      )}
    </div>
  );
}

const TONES: Readonly<Record<Gravity, string>> = { stops: 'text-stops', worth: 'text-worth', note: '' };

function EvidenceTable({ finding }: { finding: Finding }) {
  return (
    <table className="mt-3 w-full text-[13.5px]">
      <thead>
        <tr className="text-right text-[12.5px] text-soft">
          <th scope="col">
            <span className="sr-only">What</span>
          </th>
          <th scope="col" className="pb-1 pl-2 font-normal">
            now
          </th>
          <th scope="col" className="pb-1 pl-2 font-normal">
            brief
          </th>
        </tr>
      </thead>
      <tbody>
        {finding.evidence.map((evidence) => (
          <EvidenceRow key={evidence.label} evidence={evidence} tone={toneOf(evidence, finding)} />
        ))}
      </tbody>
    </table>
  );
}

/** A value that is not what the brief wants has the colour of its gravity. */
const toneOf = ({ now, brief, isCandidate }: Evidence, { gravity }: Finding): string =>
  !isCandidate && brief !== '—' && now !== brief ? TONES[gravity] : '';

/** Short values stay on one line, long names break rather than push the table out of the notebook. */
const cellOf = (x: number | string) => oneLine(x) || '[overflow-wrap:anywhere]';

function EvidenceRow({ evidence, tone }: { evidence: Evidence; tone: string }) {
  return (
    <tr className="border-t border-rule">
      <td className="py-1.5 pr-2 [overflow-wrap:anywhere]">{evidence.label}</td>
      <td className={clsx('mono py-1.5 pl-3.5 text-right', cellOf(evidence.now), tone)}>
        {withUnit(evidence.now, evidence.unit)}
      </td>
      <td className={clsx('mono py-1.5 pl-3.5 text-right', cellOf(evidence.brief))}>
        {withUnit(evidence.brief, typeof evidence.brief === 'string' ? '' : evidence.unit)}
      </td>
    </tr>
  );
}

/** Walks through the very things of a finding, one by one. */
function Walk({ finding }: { finding: Finding }) {
  const element = useDesk((state) => state.element);
  const things = finding.elements.reduce(
    (sum, { kind, ids }) => sum + (kind === 'edge' ? ids.length / 2 : ids.length),
    0,
  );
  if (things < 2) return null;
  return (
    <p className="mt-2 flex items-center gap-1.5 text-[12.5px] text-soft">
      <IconButton label="The thing before ([)" onClick={() => stepElement(-1)}>
        <ChevronLeft size={14} />
      </IconButton>
      <IconButton label="The next thing (])" onClick={() => stepElement(1)}>
        <ChevronRight size={14} />
      </IconButton>
      <span data-testid="walk">
        {element < 0 ? 'go through them one by one' : `at the ${nth(element + 1)}`}
      </span>
    </p>
  );
}

function nth(count: number): string {
  const last = count % 100 > 10 && count % 100 < 14 ? 0 : count % 10;
  return `${numberText(count)}${['th', 'st', 'nd', 'rd'][last] ?? 'th'}`;
}
