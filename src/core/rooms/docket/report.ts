import type { BentJoint, Bending } from '../../contracts/bending';
import type { BriefBase } from '../../contracts/brief';
import type { Deviation } from '../../contracts/step';
import { type Finding, GRAVITIES, GRAVITY_WORDS, type Gravity, countGravity } from '../../contracts/finding';
import type { Measure } from '../../contracts/measure';
import { ROOM_IDS } from '../../contracts/rooms';
import { inUnit, unitWord, fineUnit, unitSign } from '../../contracts/units';
import { SKINNING } from '../../contracts/trials';
import { skeletonWanted } from '../../anatomy/skeletons/wanted';
import { conformityOf, conformityText } from '../../anatomy/conformity';
import { bonesOf } from '../../character/hierarchy';
import type { Character, Mesh } from '../../character/model';
import { type Pin, endText, pinLength } from '../../character/pin';
import type { Waived } from '../../contracts/waiver';
import type { ArrivalNotice } from './receive';

/** What the report tells besides what is in the character. */
export interface ReportFacts {
  readonly title: string;
  readonly revision: number;
  readonly date: string;
  readonly steps: readonly {
    readonly number: number;
    readonly label: string;
    readonly detail: string;
    readonly note: string;
  }[];
  readonly pins: readonly Pin[];
  /** What was handed over; absent where nothing was. */
  readonly handed?: HandedFacts;
  /** The move onto the skeleton that it stands on now; absent where there was none. */
  readonly move?: MoveFacts;
}

/** What was handed over: its files with their sums, by whom and when, and what was left out on purpose. */
export interface HandedFacts {
  readonly by: string;
  readonly at: string;
  readonly note: string;
  readonly files: readonly { readonly name: string; readonly bytes: number; readonly sha256: string }[];
  readonly leftOut: readonly string[];
  /** What the format could not hold. */
  readonly notes: readonly string[];
  /** The public half of the key that the docket is signed with. */
  readonly key?: string;
}

/** A move onto another skeleton: every pair of the crosswalk, and how far the mesh lies from where it was, metres. */
export interface MoveFacts {
  readonly title: string;
  readonly how: string;
  readonly pairs: readonly { readonly source: string; readonly rule: string; readonly target: string }[];
  readonly proof?: Deviation;
  readonly price?: Deviation;
}

/** The receiver that the character is for, what it said, and how far the mesh then lies off, metres. */
export interface ReceiverFacts {
  readonly title: string;
  readonly about: string;
  readonly said: readonly ArrivalNotice[];
  readonly deviation: Deviation;
}

/** What a measure's state looks like beside its number. */
const SIGN_OF_STATE = { off: ' ✗', met: ' ✓', told: '' } as const;

/** Text as HTML: markup in it is text. */
export const escapeHtml = (text: string): string =>
  text.replace(/[&<>"']/g, (ch) => `&#${ch.charCodeAt(0)};`);

const number = (x: number | string): string => {
  if (typeof x === 'string') return x;
  if (Number.isInteger(x)) return x.toLocaleString('en').replaceAll(',', ' ');
  return String(Number(x.toFixed(Math.abs(x) < 1 ? 4 : 3)));
};
const MARKS: Readonly<Record<Gravity, string>> = { stops: '◆', worth: '◗', note: '○' };

/** A brief as far as the report tells it. */
type ReportBrief = BriefBase & { readonly limits: { readonly influences: number; readonly bones: number } };

/** All that goes into a report. */
export interface Report {
  readonly character: Character;
  readonly brief: ReportBrief;
  readonly measures: readonly Measure[];
  /** What is open. */
  readonly findings: readonly Finding[];
  /** What somebody has accepted. */
  readonly waived?: Waived['waived'];
  /** What was not asked of a body of this kind, as a sentence; '' where everything was. */
  readonly notAsked?: string;
  readonly facts: ReportFacts;
  /** How it bends; null where the brief asks nothing of a figure in motion. */
  readonly bending?: Bending | null;
  /** Address of a picture, or null. */
  readonly picture: string | null;
  /** Null where nobody asked for one. */
  readonly receiver?: ReceiverFacts | null;
}

/** Small enough to stand in the page, so that the page needs nothing else. */
const STYLE = `
@page { margin: 18mm 16mm }
* { box-sizing: border-box }
body {
  font: 14px/1.5 Figtree, system-ui, sans-serif;
  color: #22302B;
  background: #FBF9F3;
  margin: 0 auto;
  max-width: 860px;
  padding: 40px 32px;
}
h1, h2 { font-family: Fraunces, Georgia, serif; font-weight: 600; line-height: 1.15; margin: 0 }
h1 { font-size: 34px }
h2 { font-size: 20px; margin: 34px 0 8px }
header {
  display: flex;
  gap: 28px;
  align-items: flex-end;
  border-bottom: 2px solid #22302B;
  padding-bottom: 18px;
}
header img { width: 150px; height: auto }
header div { flex: 1 }
p { margin: 6px 0 }
.soft { color: #55635B }
.verdict { font-size: 18px; font-weight: 600; margin-top: 12px }
.stops { color: #A63A2B }
.worth { color: #8A5A10 }
.note { color: #3F607E }
.fine { color: #2F6B4F }
table { border-collapse: collapse; width: 100% }
th {
  text-align: left;
  font-weight: 500;
  color: #55635B;
  border-bottom: 1px solid #22302B;
  padding: 6px 8px 6px 0;
}
td { border-bottom: 1px solid #D9D2C0; padding: 7px 8px 7px 0; vertical-align: top }
td.n, th.n {
  text-align: right;
  font-family: 'JetBrains Mono', ui-monospace, monospace;
  font-size: 12.5px;
  white-space: nowrap;
}
td.sum { font-size: 10px; white-space: normal; overflow-wrap: anywhere }
td.first, th.first { text-align: left }
tr { break-inside: avoid }
.mark { width: 24px }
@media print { body { background: none; padding: 0 } }
`;

/** One cell or heading: its HTML and its classes. */
type Cell = readonly [html: string, classes?: string];

const cells = (tag: 'td' | 'th', row: readonly Cell[]): string =>
  row.map(([html, classes]) => `<${tag}${classes ? ` class="${classes}"` : ''}>${html}</${tag}>`).join('');

const table = (head: readonly Cell[], rows: readonly (readonly Cell[])[]): string =>
  [
    `<table><thead><tr>${cells('th', head)}</tr></thead><tbody>`,
    ...rows.map((row) => `<tr>${cells('td', row)}</tr>`),
    '</tbody></table>',
  ].join('\n');

/**
 * The report of a hand-off as one HTML page that prints well and needs nothing else. All text from files is
 * data, never markup.
 */
export function reportHtml(report: Report): string {
  return [
    '<!doctype html>',
    '<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">',
    `<title>${escapeHtml(report.facts.title)} — report</title>`,
    `<style>${STYLE}</style></head><body>`,
    headOf(report),
    handedOf(report.facts),
    measuresOf(report),
    findingsOf(report),
    waivedOf(report.waived ?? []),
    bendingOf(report),
    skeletonOfReport(report),
    moveOf(report),
    receiverOf(report),
    ledgerOf(report.facts),
    '</body></html>',
  ].join('\n');
}

/** What was handed over. */
function handedOf({ handed }: ReportFacts): string {
  if (!handed) return '';
  const escaped = escapeHtml;
  const { by, at, note, files, leftOut, notes, key } = handed;
  const rows = files.map((file): readonly Cell[] => [
    [escaped(file.name)],
    [number(file.bytes), 'n'],
    [escaped(file.sha256), 'n sum'],
  ]);
  return [
    `<h2>Handed over</h2><p>By ${escaped(by)} on ${escaped(at.slice(0, 10))}. What is found here was found on the file read back.</p>`,
    note ? `<p>${escaped(note)}</p>` : '',
    table([['File'], ['Bytes', 'n'], ['Sha-256', 'n']], rows),
    key
      ? `<p class="soft">The docket is signed with the key <span class="sum">${escaped(key)}</span>.</p>`
      : '',
    leftOut.length > 0 ? `<p>Left out on purpose: ${escaped(leftOut.join(', '))}.</p>` : '',
    ...notes.map((note) => `<p class="soft">${escaped(note)}</p>`),
  ].join('\n');
}

/** What of the game's skeleton is there; nothing where the brief names none of the house's, or there are no bones. */
function skeletonOfReport({ character, brief }: Report): string {
  const target = skeletonWanted(brief);
  if (!target || bonesOf(character).length === 0) return '';
  const lines = conformityText(conformityOf(character, target)).map((line) => `<p>${escapeHtml(line)}</p>`);
  return [`<h2>Skeleton, against ${escapeHtml(target.title)}</h2>`, ...lines].join('\n');
}

/** Joints that are told one by one, and all that are beyond a limit. */
const TOLD_JOINTS = 16;

/** How it bends: the joints that keep least of their volume, and what the others keep at least. */
function bendingOf({ bending }: Report): string {
  if (!bending) return '';
  const { joints, motions, skinning, limits } = bending;
  if (joints.length === 0)
    return '<h2>In motion</h2><p>No joint bends anything: no skin follows two bones across one.</p>';
  const isTold = ({ volume, stretch }: BentJoint, i: number) =>
    i < TOLD_JOINTS || (volume?.value ?? 1) < limits.volume || stretch.value > limits.stretch;
  const told = joints.filter(isTold);
  const rest = joints.filter((joint, i) => !isTold(joint, i));
  return [
    `<h2>In motion</h2><p class="soft">${number(joints.length)} joints in ${number(motions)} motions, skinned ${SKINNING[skinning]}; the brief wants at least ${percent(limits.volume)} of the volume at a joint, and skin stretched at most ${limits.stretch} ×.</p>`,
    table(
      [['Joint'], ['Volume kept', 'n'], ['Motion'], ['Most stretch', 'n'], ['Motion']],
      told.map((joint) => bentRow(joint, limits)),
    ),
    othersOf(rest),
  ].join('\n');
}

/** What joints that are not told one by one keep at least; those of which it can be told stand first. */
function othersOf(rest: readonly BentJoint[]): string {
  if (rest.length === 0) return '';
  const [{ volume }] = rest;
  const isTold = rest.every((joint) => joint.volume);
  const where = isTold ? '' : ', where a volume can be told';
  const words = volume ? `keep ${percent(volume.value)} and more${where}` : 'have no volume that can be told';
  return `<p class="soft">The other ${rest.length} ${words}.</p>`;
}

const percent = (share: number): string => `${Math.round(share * 100)} %`;

function bentRow({ bone, volume, stretch }: BentJoint, limits: Bending['limits']): readonly Cell[] {
  const sign = (isOff: boolean) => (isOff ? SIGN_OF_STATE.off : SIGN_OF_STATE.met);
  return [
    [escapeHtml(bone)],
    [volume ? `${percent(volume.value)}${sign(volume.value < limits.volume)}` : '—', 'n'],
    [escapeHtml(volume?.words ?? ''), 'soft'],
    [`${stretch.value.toFixed(2)} ×${sign(stretch.value > limits.stretch)}`, 'n'],
    [escapeHtml(stretch.words), 'soft'],
  ];
}

/** The move onto the skeleton: what it cost, and every pair. */
function moveOf({ brief, facts: { move } }: Report): string {
  if (!move) return '';
  const escaped = escapeHtml;
  const { proof, price } = move;
  const length = (metres: number) => lengthWords(metres, brief);
  const cost =
    proof && price
      ? `<p>In the same motions points lie up to ${length(proof.max)} from where they were, ${length(proof.rms)} in the mean. The skeleton itself costs ${length(price.rms)} of that; the move adds ${length(proof.rms - price.rms)}.</p>`
      : '';
  return [
    `<h2>Crosswalk, onto ${escaped(move.title)}</h2><p class="soft">${escaped(move.how)}</p>`,
    cost,
    table(
      [['Bone'], ['Rule'], ['Becomes']],
      move.pairs.map((pair) => [
        [escaped(pair.source)],
        [escaped(pair.rule), 'soft'],
        [escaped(pair.target)],
      ]),
    ),
  ].join('\n');
}

/** How the machine that it is for will hold it. */
function receiverOf({ brief, receiver }: Report): string {
  if (!receiver) return '';
  const escaped = escapeHtml;
  const { title, about, said, deviation } = receiver;
  const items = said.map(
    (item) => `<p class="${item.kind === 'lost' ? 'stops' : ''}">${escaped(item.text)}</p>`,
  );
  return [
    `<h2>On arrival: ${escaped(title)}</h2><p class="soft">${escaped(about)}</p>`,
    `<p>Held there, points lie up to ${lengthWords(deviation.max, brief)} from where they were sent, ${lengthWords(deviation.rms, brief)} in the mean.</p>`,
    ...(items.length > 0 ? items : ['<p>It takes everything as it is.</p>']),
  ].join('\n');
}

/** A small length in the brief's unit; in millimetres where that is the metre. */
function lengthWords(metres: number, { unit }: ReportBrief): string {
  const small = fineUnit(unit);
  return `${Number(inUnit(metres, small).toPrecision(3))} ${unitSign(small)}`;
}

function headOf({ brief, findings, waived = [], facts, picture }: Report): string {
  const escaped = escapeHtml;
  const { stops, worth, note } = countGravity(findings);
  const word = stops === 1 ? 'finding stops' : 'findings stop';
  const verdict = stops > 0 ? `◆ ${stops} ${word} hand-off` : '✓ Nothing stops hand-off';
  return [
    `<header><div><h1>${escaped(facts.title)}</h1>`,
    `<p class="soft">Revision ${facts.revision} · for ${escaped(brief.title)}, version ${brief.version} · ${escaped(facts.date)}</p>`,
    `<p class="verdict ${stops > 0 ? 'stops' : 'fine'}">${verdict}</p>`,
    `<p class="soft">${worth} worth fixing · ${note} for your eyes${waived.length > 0 ? ` · ${waived.length} waived` : ''}</p></div>`,
    picture ? `<img alt="" src="${escaped(picture)}">` : '',
    '</header>',
  ].join('\n');
}

function measuresOf({ character, brief, measures, facts }: Report): string {
  const escaped = escapeHtml;
  const sources = [character.source, ...(character.added ?? [])].map((source) => {
    const names = source.files.map((file) => file.name).join(', ') || source.format;
    return escaped(`${names} (${source.format}, ${unitWord(source.unitMetres)}, ${source.upAxis ?? 'y'} up)`);
  });
  const rows = measureRows(character, brief, measures, facts.pins);
  return [
    `<h2>Measures</h2><p class="soft">Read from ${sources.join('; ')}.</p>`,
    table(
      [['What'], ['Measured', 'n'], ['Brief', 'n']],
      rows.map(([what, measured, wanted]) => [
        [escaped(what)],
        [escaped(measured), 'n'],
        [escaped(wanted), 'n'],
      ]),
    ),
  ].join('\n');
}

function findingsOf({ findings, waived = [], notAsked = '' }: Report): string {
  const silent = notAsked ? `<p class="soft">${escapeHtml(notAsked)}</p>` : '';
  if (findings.length === 0 && waived.length > 0)
    return `<h2>Findings</h2><p>None is open; what was accepted stands below.</p>${silent}`;
  if (findings.length === 0)
    return `<h2>Findings</h2><p>None. Every check that was asked came back clean.</p>${silent}`;
  const sorted = ROOM_IDS.flatMap((room) =>
    GRAVITIES.flatMap((gravity) =>
      findings.filter((finding) => finding.room === room && finding.gravity === gravity),
    ),
  );
  const head: Cell[] = [['', 'mark'], ['What and where'], ['Measured', 'n'], ['Expected', 'n']];
  return `<h2>Findings</h2>${table(head, sorted.map(findingRow))}${silent}`;
}

/** What somebody has accepted, struck through, with the reason. */
function waivedOf(waived: Waived['waived']): string {
  if (waived.length === 0) return '';
  const escaped = escapeHtml;
  const rows = waived.map(({ finding, waiver: { by, reason, until, untilRevision } }): readonly Cell[] => {
    const end = [until && `until ${until}`, untilRevision && `until revision ${untilRevision}`];
    const about = `${finding.room} · ${GRAVITY_WORDS[finding.gravity]}`;
    return [
      [MARKS[finding.gravity], 'mark soft'],
      [`<s>${escaped(finding.message)}</s><br><span class="soft">${escaped(about)}</span>`],
      [escaped([by, ...end].filter(Boolean).join(', '))],
      [escaped(reason)],
    ];
  });
  return `<h2>Waived</h2>${table([['', 'mark'], ['What and where'], ['Accepted by'], ['Reason']], rows)}`;
}

function findingRow(finding: Finding): readonly Cell[] {
  const escaped = escapeHtml;
  const gravity = `<span class="${finding.gravity}">${GRAVITY_WORDS[finding.gravity]}</span>`;
  const about = `<span class="soft">${escaped(finding.room)} · ${gravity} · ${escaped(finding.why)}</span>`;
  return [
    [MARKS[finding.gravity], `mark ${finding.gravity}`],
    [`${escaped(finding.message)}<br>${about}`],
    [`${escaped(number(finding.measured))} ${escaped(finding.unit)}`, 'n'],
    [escaped(number(finding.expected)), 'n'],
  ];
}

function ledgerOf({ steps }: ReportFacts): string {
  const escaped = escapeHtml;
  const rows = steps.map((step): readonly Cell[] => [
    [String(step.number), 'n first'],
    [escaped(step.label)],
    [`${escaped(step.detail)}${step.note ? `<br>${escaped(step.note)}` : ''}`, 'soft'],
  ]);
  return `<h2>Ledger</h2>${table([['Revision', 'n first'], ['Step'], ['What it did']], rows)}`;
}

/** What was measured, beside what the brief wants of it: label, measured, wanted. */
function measureRows(
  character: Character,
  brief: ReportBrief,
  measures: readonly Measure[],
  pins: ReportFacts['pins'],
): [string, string, string][] {
  const length = (metres: number | null) =>
    metres === null
      ? 'not on this revision'
      : `${number(inUnit(metres, brief.unit))} ${unitSign(brief.unit)}`;
  return [
    ...measures
      .filter((measure) => measure.group !== 'Proportions')
      .map((measure): [string, string, string] => [
        measure.group === 'Props and parts' ? `Size of ${measure.label}` : measure.label,
        `${valueOf(measure.value, measure.unit)}${SIGN_OF_STATE[measure.state]}`,
        measure.target === null
          ? '—'
          : `${valueOf(measure.target, measure.unit)}${measure.tolerance ? ` ± ${number(measure.tolerance)}` : ''}`,
      ]),
    ...pins.map((pin): [string, string, string] => [
      `Pinned measure: ${pin.label || `${endText(pin.from)} to ${endText(pin.to)}`}`,
      length(pinLength(character, pin)),
      '—',
    ]),
    ['Bones', number(bonesOf(character).length), '—'],
    limitRow(
      'Bones in the largest skin',
      character.skins.map((skin) => skin.joints.length),
      brief.limits.bones,
    ),
    limitRow('Influences a point, most', character.meshes.map(mostInfluences), brief.limits.influences),
    ['Meshes', number(character.meshes.length), '—'],
    ['Vertices', number(character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0)), '—'],
    [
      'Polygons',
      number(character.meshes.reduce((sum, mesh) => sum + mesh.polygonOffsets.length - 1, 0)),
      '—',
    ],
    ['Clips', number(character.clips.length), '—'],
  ];
}

/** The largest of some counts, marked where it is more than may be. */
function limitRow(label: string, counts: readonly number[], limit: number): [string, string, string] {
  const most = Math.max(0, ...counts);
  return [
    label,
    `${number(most)}${most > limit ? SIGN_OF_STATE.off : SIGN_OF_STATE.met}`,
    `at most ${limit}`,
  ];
}

function mostInfluences({ influences, vertexCount }: Mesh): number {
  let most = 0;
  if (influences)
    for (let vertex = 0; vertex < vertexCount; vertex++)
      most = Math.max(most, influences.offsets[vertex + 1] - influences.offsets[vertex]);
  return most;
}

/** A measured value with its unit, with the digits that suit the unit; words as they are. */
function valueOf(x: number | string, unit: string): string {
  if (typeof x !== 'number') return x;
  const isShare = unit.startsWith('%');
  const shown = number(Number(x.toFixed(unit === '°' || isShare ? 1 : 4)) + 0);
  if (unit === '°') return `${shown}°`;
  if (isShare) return `${shown} %`;
  return unit ? `${shown} ${unit}` : shown;
}
