/** The table of the crosswalk room: groups, what wants a look, filters and orders. */
import type { Crosswalk } from '@/core/anatomy/crosswalk';
import { limbsOf } from '@/core/anatomy/limbs';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { type PairQuery, LOOK, type Pairing, type PairListRow, rowsOf } from '@/ui/rooms/crosswalk/rows';

const crosswalk: Crosswalk = suggest(QUAY, VRM_HUMANOID).map((rule) => ({ ...rule, locked: false }));
const at = (name: string) => QUAY.bones.findIndex((bone) => bone.name === name);
const [hand, spine] = [at('hand_lt'), at('spine_1')];
/** The proof shows two bones to be off, one of them by more. */
const shown = QUAY.bones.map((_, i) => {
  if (i !== hand && i !== spine) return null;
  return { node: i, max: i === hand ? 0.2 : 0.05, pose: 1 };
});
const pairing: Pairing = { source: QUAY, skeleton: VRM_HUMANOID, crosswalk, shown, allowed: 0.001 };
const limbs = limbsOf(QUAY, VRM_HUMANOID, crosswalk);
const asked = (change: Partial<PairQuery> = {}): PairQuery => ({
  filter: 'all',
  find: '',
  sort: 'limb',
  limbs,
  listed: new Set([hand, spine]),
  turned: new Set(),
  ...change,
});
const bonesOf = (rows: readonly PairListRow[]) =>
  rows.flatMap((row) => (row.kind === 'pair' ? [row.rule.source] : []));
const headsOf = (rows: readonly PairListRow[]) => rows.flatMap((row) => (row.kind === 'head' ? [row] : []));

it('lists every bone once, what wants a look before all limbs', () => {
  const rows = rowsOf(pairing, asked());
  expect([...bonesOf(rows)].sort((a, b) => a - b)).toEqual(QUAY.bones.map((_, i) => i));
  const [first] = headsOf(rows);
  expect([first.id, first.open, first.bones]).toEqual([LOOK, 2, [spine, hand]]);
  expect(bonesOf(rows).slice(0, 2)).toEqual([spine, hand]);
});

it('keeps what was looked at in its place, and counts it as done', () => {
  const fine = crosswalk.map((rule) =>
    rule.source === hand ? { ...rule, locked: true, accepted: 0.2 } : rule,
  );
  const [first] = headsOf(rowsOf({ ...pairing, crosswalk: fine }, asked()));
  expect([first.open, first.bones.length]).toEqual([1, 2]);
});

it('closes a group and opens it again; a search looks into closed ones', () => {
  const trunk = limbs.find((limb) => limb.title === 'Trunk')!;
  const closed = rowsOf(pairing, asked({ turned: new Set([trunk.id]) }));
  expect(headsOf(closed).find((row) => row.id === trunk.id)?.isClosed).toBe(true);
  expect(bonesOf(closed)).not.toContain(at('pelvis'));
  expect(bonesOf(rowsOf(pairing, asked({ turned: new Set([trunk.id]), find: 'PELVIS' })))).toEqual([
    at('pelvis'),
  ]);
});

it('finds a bone by its counterpart’s name as well', () => {
  const found = bonesOf(rowsOf(pairing, asked({ find: 'leftLowerArm' })));
  expect(found).toContain(at('arm_lower_lt'));
  for (const b of found) expect(VRM_HUMANOID.bones[crosswalk[b].target].name).toBe('leftLowerArm');
});

it('filters by what becomes of a bone, and by what wants a look', () => {
  const released = bonesOf(rowsOf(pairing, asked({ filter: 'release' })));
  expect(released.length).toBe(crosswalk.filter((rule) => rule.kind === 'release').length);
  expect(bonesOf(rowsOf(pairing, asked({ filter: 'look' }))).sort((a, b) => a - b)).toEqual(
    [hand, spine].sort((a, b) => a - b),
  );
});

it('sorted, it is one list without heads: by name with numbers as numbers, by how far off and how sure', () => {
  const named = rowsOf(pairing, asked({ sort: 'name' }));
  expect(headsOf(named)).toEqual([]);
  const names = bonesOf(named).map((bone) => QUAY.bones[bone].name);
  expect(names).toEqual([...names].sort((a, b) => a.localeCompare(b, 'en', { numeric: true })));
  expect(bonesOf(rowsOf(pairing, asked({ sort: 'sure' }))).slice(0, 2)).toEqual([hand, spine]);
});
