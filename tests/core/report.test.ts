/**
 * The report as a lead reads it: parsed by a browser's parser, held against the character that it speaks of.
 */
import fc from 'fast-check';
import { JSDOM } from 'jsdom';
import { audit } from '@/core/house/audit';
import type { BentJoint, Bending } from '@/core/contracts/bending';
import { briefById } from '@/core/house/briefs';
import type { Character } from '@/core/character/model';
import { type ReportFacts, escapeHtml, reportHtml } from '@/core/rooms/docket/report';
import { bendingOf } from '@/core/rooms/trials/bending';
import { handedMotionOf } from '@/core/rooms/trials/handed';
import { measuresOf } from '@/core/rooms/placement/measures';
import { castCharacter } from './support/cast';
import { figure } from './support/figure';

const facts = (more: Partial<ReportFacts> = {}): ReportFacts => ({
  title: 'Stoker',
  revision: 3,
  date: '2026-11-25',
  steps: [{ number: 1, label: 'as delivered', detail: 'stoker.dae', note: '' }],
  pins: [],
  ...more,
});
const page = (
  character: Character,
  briefId = 'handset',
  more: Partial<ReportFacts> = {},
  picture: string | null = null,
  bending: Bending | null = null,
) => {
  const brief = briefById(briefId)!;
  const findings = audit(character, brief);
  const { document } = new JSDOM(
    reportHtml({
      character,
      brief,
      measures: measuresOf(character, brief),
      findings,
      facts: facts(more),
      bending,
      picture,
    }),
  ).window;
  const table = (i: number) =>
    [...document.querySelectorAll('table')[i].querySelectorAll('tbody tr')].map((element) =>
      [...element.children].map((child) => child.textContent ?? ''),
    );
  return { document, brief, findings, table };
};

it('says what stops hand-off first, and how many', () => {
  const { document, findings } = page(castCharacter('stoker.dae'));
  const stops = findings.filter((finding) => finding.gravity === 'stops').length;
  expect(stops).toBeGreaterThan(1);
  expect(document.querySelector('.verdict')!.textContent).toBe(`◆ ${stops} findings stop hand-off`);
  expect(document.querySelector('h1')!.textContent).toBe('Stoker');
  expect(document.querySelector('header p')!.textContent).toBe(
    'Revision 3 · for Night Ferry, handset, version 1 · 2026-11-25',
  );
});

it('says so where nothing does', () => {
  const { document, findings } = page(castCharacter('deckhand-clean.glb'));
  expect(findings.filter((finding) => finding.gravity === 'stops')).toEqual([]);
  expect(document.querySelector('.verdict')!.textContent).toBe('✓ Nothing stops hand-off');
});

it('every finding stands in it once, room after room, the heaviest first in each', () => {
  const { findings, table } = page(castCharacter('deckhand.glb'));
  const rows = table(1);
  expect(rows.length).toBe(findings.length);
  for (const finding of findings)
    expect(rows.filter((row) => row[1].startsWith(finding.message)).length).toBeGreaterThan(0);
  const weight = (mark: string) => ['◆', '◗', '○'].indexOf(mark);
  const rooms = rows.map(
    (row) => /(placement|skeleton|surface|weights|trials|crosswalk|docket) · /.exec(row[1])![1],
  );
  for (let i = 1; i < rows.length; i++)
    if (rooms[i] === rooms[i - 1]) expect(weight(rows[i][0])).toBeGreaterThanOrEqual(weight(rows[i - 1][0]));
  expect(new Set(rooms).size).toBe(rooms.filter((room, i) => room !== rooms[i - 1]).length);
});

it('every measure stands in it with its target, its unit, and whether it is met', () => {
  const character = castCharacter('stoker.dae');
  const { brief, table } = page(character);
  const rows = new Map(table(0).map((row) => [row[0], row]));
  for (const measure of measuresOf(character, brief).filter(
    (otherMeasure) => otherMeasure.group !== 'Proportions',
  )) {
    const row = rows.get(measure.group === 'Props and parts' ? `Size of ${measure.label}` : measure.label)!;
    expect(row).toBeDefined();
    if (typeof measure.value === 'number')
      expect(Math.abs(Number.parseFloat(row[1].replace(/\s/g, '')) - measure.value)).toBeLessThan(0.051);
    expect(row[1].endsWith('✗')).toBe(measure.state === 'off');
    expect(row[1].endsWith('✓')).toBe(measure.state === 'met');
    if (measure.target === null) expect(row[2]).toBe('—');
  }
});

it('tells where everything came from, in which unit and with which way up', () => {
  expect(page(castCharacter('stoker.dae')).document.body.textContent).toContain(
    'Read from stoker.dae (COLLADA 1.4.1, inches,',
  );
});

it('pinned measures stand in it, in the brief’s unit; one whose end is gone says so', () => {
  const character = figure({ arms: 0, legs: 0, bend: 0 });
  const pin = (label: string, to: string) => ({
    id: label,
    label,
    from: { kind: 'joint' as const, node: 'root' },
    to: { kind: 'joint' as const, node: to },
  });
  const rows = new Map(
    page(character, 'handset', { pins: [pin('to the head', 'head'), pin('', 'tail')] })
      .table(0)
      .map((row) => [row[0], row[1]]),
  );
  expect(rows.get('Pinned measure: to the head')).toBe('1.6 m');
  expect(rows.get('Pinned measure: root to tail')).toBe('not on this revision');
});

it('the line of steps stands in it, with what each did and what was noted', () => {
  const steps = [
    { number: 1, label: 'as delivered', detail: 'a.glb', note: '' },
    { number: 4, label: 'rescale', detail: 'Touched 3 nodes.', note: 'agreed with the supplier' },
  ];
  const rows = page(figure({ arms: 0, legs: 0, bend: 0 }), 'handset', { steps }).table(2);
  expect(rows.map((row) => row[0])).toEqual(['1', '4']);
  expect(rows[1].slice(1)).toEqual(['rescale', 'Touched 3 nodes.agreed with the supplier']);
});

it('needs nothing else: no address but the picture within it, no script, one heading of the first order', () => {
  const { document } = page(castCharacter('capstan.glb'), 'deck-gear', {}, 'data:image/png;base64,AAAA');
  expect(document.querySelectorAll('script, link, iframe, object').length).toBe(0);
  expect(
    [...document.querySelectorAll('[src], [href]')].map(
      (element) => element.getAttribute('src') ?? element.getAttribute('href'),
    ),
  ).toEqual(['data:image/png;base64,AAAA']);
  expect([document.querySelectorAll('h1').length, document.documentElement.lang]).toEqual([1, 'en']);
  expect(document.querySelector('style')!.textContent).toMatch(/@media print/);
});

it('text stays text, whatever is in it', () =>
  fc.assert(
    fc.property(fc.string({ maxLength: 60 }), (text) => {
      const { document } = new JSDOM(`<p title="${escapeHtml(text)}">${escapeHtml(text)}</p>`).window;
      const element = document.querySelector('p')!;
      // A parser makes one kind of line end of all, and drops what no document may hold.
      const plain = (otherText: string) => otherText.replace(/\r\n?/g, '\n').replaceAll('\0', '');
      expect([element.children.length, plain(element.textContent ?? '')]).toEqual([0, plain(text)]);
      expect(element.getAttributeNames()).toEqual(['title']);
    }),
    { numRuns: 200 },
  ));

it('says what of the game’s skeleton is there, and nothing of it where there are no bones', () => {
  const lines = (file: string) =>
    [...page(castCharacter(file)).document.querySelectorAll('h2')]
      .filter((element) => element.textContent === 'Skeleton, against Quay skeleton')
      .flatMap((element) => {
        const out: string[] = [];
        for (
          let otherElement = element.nextElementSibling;
          otherElement?.tagName === 'P';
          otherElement = otherElement.nextElementSibling
        )
          out.push(otherElement.textContent ?? '');
        return out;
      });
  expect(lines('deckhand-clean.glb')[0]).toBe('60 of 60 bones of the skeleton are there under their names.');
  const stoker = lines('stoker.dae');
  expect(stoker[0]).toBe('0 of 60 bones of the skeleton are there under their names.');
  expect(stoker.join(' ')).toMatch(/59 bones are in no skin: pelvis, .*root is Root/);
  const bare = { ...castCharacter('deckhand-clean.glb'), skins: [] };
  const without = {
    ...bare,
    nodes: bare.nodes.map((node) => ({
      ...node,
      skin: -1,
      kind: node.kind === 'bone' ? ('empty' as const) : node.kind,
    })),
  };
  const titles = [...page(without).document.querySelectorAll('h2')].map((element) => element.textContent);
  expect(titles.some((title) => title?.startsWith('Skeleton'))).toBe(false);
});

it('tells how every joint bends: the one that keeps least first, held against the brief, with what was tried', () => {
  const joint = (bone: string, volume: number | null, stretch: number): BentJoint => ({
    bone,
    volume: volume === null ? null : { value: volume, words: 'bend, 118°' },
    stretch: { value: stretch, words: 'turn inwards, 60°' },
  });
  const told = (joints: readonly BentJoint[]) => {
    const { document } = page(figure({ arms: 0, legs: 0, bend: 0 }), 'handset', {}, null, {
      skinning: 'dual-quaternion',
      motions: 214,
      joints,
      limits: { volume: 0.5, stretch: 3 },
    });
    const heading = [...document.querySelectorAll('h2')].find((h2) => h2.textContent === 'In motion')!;
    const below = (tag: string) => {
      let element = heading.nextElementSibling;
      const out: Element[] = [];
      for (; element && element.tagName !== 'H2'; element = element.nextElementSibling)
        if (element.tagName === tag) out.push(element);
      return out;
    };
    return {
      words: below('P').map((p) => p.textContent),
      rows: below('TABLE').flatMap((table) =>
        [...table.querySelectorAll('tbody tr')].map((tr) => [...tr.children].map((td) => td.textContent)),
      ),
    };
  };
  const few = told([joint('R_upperarm', 0.414, 3.2), joint('<neck>', 0.5, 1.04), joint('jaw', null, 1)]);
  expect(few.words).toEqual([
    '3 joints in 214 motions, skinned by dual quaternions; the brief wants at least 50 % of the volume at a joint, and skin stretched at most 3 ×.',
  ]);
  expect(few.rows).toEqual([
    ['R_upperarm', '41 % ✗', 'bend, 118°', '3.20 × ✗', 'turn inwards, 60°'],
    ['<neck>', '50 % ✓', 'bend, 118°', '1.04 × ✓', 'turn inwards, 60°'],
    ['jaw', '—', '', '1.00 × ✓', 'turn inwards, 60°'],
  ]);
  const many = told(Array.from({ length: 40 }, (_, i) => joint(`finger ${i}`, 0.6 + i / 100, 1)));
  expect(many.rows.length).toBe(16);
  expect(many.words.at(-1)).toBe('The other 24 keep 76 % and more.');
  const thin = [joint('ear', null, 1), joint('tail', null, 1)];
  const full = Array.from({ length: 16 }, () => joint('finger', 0.6, 1));
  expect(told([...full, joint('knee', 0.8, 1), ...thin]).words.at(-1)).toBe(
    'The other 3 keep 80 % and more, where a volume can be told.',
  );
  expect(told([...full, ...thin]).words.at(-1)).toBe('The other 2 have no volume that can be told.');
  expect(told(full).words).toHaveLength(1);
  // Whatever is beyond a limit stands in it, however many keep less of their volume.
  const torn = told([
    ...Array.from({ length: 20 }, (_, i) => joint(`finger ${i}`, 0.6, 1)),
    joint('knee', 0.9, 3.1),
  ]);
  expect(torn.rows.at(-1)?.slice(0, 4)).toEqual(['knee', '90 % ✓', 'bend, 118°', '3.10 × ✗']);
  expect(told([]).words).toEqual(['No joint bends anything: no skin follows two bones across one.']);
});

it('every joint that was tried has a row, with the worst of all its motions', () => {
  const character = castCharacter('stoker.dae');
  const limits = briefById('handset')!.trials!;
  const { joints, motions } = bendingOf(character, limits);
  const rows = handedMotionOf(character, limits).rows;
  expect(motions).toBe(rows.length);
  expect(joints.map(({ bone }) => bone).sort()).toEqual([...new Set(rows.map(({ bone }) => bone))].sort());
  for (const { bone, volume, stretch } of joints) {
    const own = rows.filter((row) => row.bone === bone);
    const volumes = own.flatMap((row) => row.volume ?? []);
    expect(volume?.value ?? null).toEqual(
      volumes.length > 0 ? expect.closeTo(Math.min(...volumes), 3) : null,
    );
    expect(stretch.value).toBeCloseTo(Math.max(1, ...own.map((row) => row.stretch)), 3);
    // The motion that is named is one of this joint.
    if (volume) expect(own.some(({ motion }) => volume.words.startsWith(motion))).toBe(true);
  }
  const kept = joints.flatMap(({ volume }) => volume?.value ?? []);
  expect(kept).toEqual(kept.toSorted((a, b) => a - b));
});
