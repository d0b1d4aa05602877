/** Briefs in the database: those of the house, those made here, their versions, and who is held against them. */
import { type Kysely, sql } from 'kysely';
import { DELETE as remove, GET as versions } from '@/app/api/briefs/[id]/route';
import { POST as trial } from '@/app/api/briefs/[id]/trial/route';
import { GET as list, PUT as save } from '@/app/api/briefs/route';
import { POST as deliver } from '@/app/api/characters/[id]/deliveries/route';
import { POST as remap } from '@/app/api/characters/[id]/steps/remap/route';
import { POST as learn } from '@/app/api/revisions/[id]/brief/route';
import { fromStored } from '@/core/character/stored';
import { type Skeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { ownSkeletonOf } from '@/core/anatomy/skeletons/wanted';
import { audit } from '@/core/house/audit';
import { type Brief } from '@/core/house/brief';
import { BRIEFS } from '@/core/house/briefs';
import { PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { countGravity } from '@/core/contracts/finding';
import { readBrief } from '@/core/house/read-brief';
import { bringBriefs, briefsOf } from '@/server/briefs';
import { findingsOf, saveAudit, toldOn } from '@/server/audits';
import { changeCharacter, characterById, listCharacters } from '@/server/characters';
import type { Database } from '@/server/database';
import { wireOf } from '@/server/revisions';
import type { BriefEntry } from '@/routes/briefs';
import { castBytes, castCharacter } from '../core/support/cast';
import { answered, arriveAs, houseWithWorker, lastLine, on, sent, upload } from './support/asking';

jest.mock('piscina', () => jest.requireActual('./support/threads'));

const house = houseWithWorker('bough_briefs');
let db: Kysely<Database>;
beforeAll(() => {
  db = house();
});

const entries = async () => (await (await on(list, sent('GET'))).json()).briefs as BriefEntry[];
const own = (more: Partial<Brief> = {}): Brief => ({
  ...PLAIN_FIGURE,
  id: 'tall-ships',
  title: 'Tall ships',
  ...more,
});

const arrive = (file: string, brief: Brief) => arriveAs(db, file, brief);

it('the briefs of the house are there once, and one that has changed in the house is a new version', async () => {
  expect((await entries()).map((entry) => [entry.brief.id, entry.origin])).toEqual(
    BRIEFS.map((brief) => [brief.id, 'house']),
  );
  await bringBriefs(db);
  expect((await entries()).map((entry) => entry.brief.version)).toEqual(BRIEFS.map(() => 1));
  await sql`update brief_versions set file = jsonb_set(file, '{limits,bones}', '3') where brief_id = 'handset'`.execute(
    db,
  );
  await bringBriefs(db);
  const { body } = await answered(await on(versions, sent('GET'), { id: 'handset' }));
  expect(
    body.versions.map((version: { brief: Brief }) => [version.brief.version, version.brief.limits.bones]),
  ).toEqual([
    [2, 75],
    [1, 3],
  ]);
});

it('one of one’s own is saved, changed and told apart by its versions; nothing is lost to another’s change', async () => {
  expect(await answered(await on(save, sent('PUT', { base: 0, brief: own() })))).toMatchObject({
    status: 200,
    body: { brief: { id: 'tall-ships', version: 1 } },
  });
  const again = await answered(await on(save, sent('PUT', { base: 0, brief: own() })));
  expect(again).toMatchObject({ status: 409, body: { message: expect.stringContaining('already') } });
  const second = own({ limits: { influences: 2, bones: 40, depth: null } });
  expect((await answered(await on(save, sent('PUT', { base: 1, brief: second })))).body.brief.version).toBe(
    2,
  );
  const late = await answered(await on(save, sent('PUT', { base: 1, brief: own() })));
  expect(late).toMatchObject({
    status: 409,
    body: { message: expect.stringMatching(/Version 2 .* opened version 1/) },
  });
  const { body } = await answered(await on(versions, sent('GET'), { id: 'tall-ships' }));
  expect(body.versions.map((version: { brief: Brief }) => version.brief.limits.influences)).toEqual([2, 4]);
  expect(body.origin).toBe('own');
});

it.each<[string, object, number, RegExp]>([
  ['an unknown field', { ...own(), colour: 'blue' }, 400, /a field “colour” that no brief has/],
  ['a wrong one', own({ limits: { influences: 0, bones: 4, depth: null } }), 400, /limits.influences/],
  [
    'a pattern that looks around',
    own({ naming: { ...PLAIN_FIGURE.naming, pattern: '^(?!a)' } }),
    400,
    /“naming.pattern” looks around/,
  ],
  ['one of the house', PLAIN_FIGURE, 409, /came with the house/],
])('%s is refused in a sentence', async (_, brief, status, message) => {
  const answer = await answered(await on(save, sent('PUT', { base: 0, brief })));
  expect(answer).toMatchObject({ status, body: { message: expect.stringMatching(message) } });
});

it('characters follow the newest version: what was audited under an older one counts no more, and a trial tells before', async () => {
  const easy = readBrief(
    own({ id: 'rigging', title: 'Rigging', limits: { influences: 8, bones: 300, depth: null } }),
  );
  await on(save, sent('PUT', { base: 0, brief: easy }));
  const { id } = await arrive('deckhand.glb', easy);
  const before = (await listCharacters(db)).find((character) => character.id === id)!;
  expect(before.counts).toEqual(countGravity(audit(castCharacter('deckhand.glb'), easy)));
  expect((await briefsOf(db, new Set([before.brief])))[before.brief].limits.influences).toBe(8);
  const strict = { ...easy, limits: { influences: 1, bones: 300, depth: null } };
  // Moved since: what shows in motion is counted, and is no part of a trial of briefs, which moves nobody.
  const { head } = await characterById(db, id);
  const torn = {
    ...(await toldOn(db, head, 'rigging@1'))![0],
    check: 'flies-off',
    key: 'flies-off/bone/cap',
  };
  const all = [...(await toldOn(db, head, 'rigging@1'))!, torn];
  await saveAudit(db, head, 'rigging@1', {
    findings: (await findingsOf(db, head, 'rigging@1'))!,
    counts: countGravity(all),
    told: all,
    isMoved: true,
  });
  const moved = (await listCharacters(db)).find((character) => character.id === id)!;
  expect([moved.moved, moved.counts]).toEqual([true, countGravity(all)]);
  const told = await answered(await on(trial, sent('POST', { brief: strict }), { id: 'rigging' }));
  expect(told.body.rows).toEqual([
    {
      id,
      name: 'deckhand.glb',
      now: before.counts,
      then: countGravity(audit(castCharacter('deckhand.glb'), strict)),
    },
  ]);
  expect(told.body.rows[0].then.stops).toBeGreaterThan(before.counts!.stops);
  await on(save, sent('PUT', { base: 1, brief: strict }));
  expect((await listCharacters(db)).find((character) => character.id === id)?.counts).toBeNull();
  expect((await characterById(db, id)).wants).toMatchObject({ version: 2, limits: { influences: 1 } });
  const used = await answered(await on(remove, sent('DELETE'), { id: 'rigging' }));
  expect(used).toMatchObject({
    status: 409,
    body: { message: expect.stringContaining('“deckhand.glb” is held') },
  });
  await changeCharacter(db, id, { brief: 'handset' });
  expect((await answered(await on(remove, sent('DELETE'), { id: 'rigging' }))).body).toEqual({
    removed: true,
  });
  expect((await entries()).some((entry) => entry.brief.id === 'rigging')).toBe(false);
  expect((await answered(await on(remove, sent('DELETE'), { id: 'handset' }))).status).toBe(409);
});

it('one that is made under the id of one that was removed begins anew: no audit of the old one counts for it', async () => {
  const easy = readBrief(
    own({ id: 'again', title: 'Again', limits: { influences: 8, bones: 300, depth: null } }),
  );
  await on(save, sent('PUT', { base: 0, brief: easy }));
  const { id } = await arrive('deckhand.glb', easy);
  await changeCharacter(db, id, { brief: 'handset' });
  await on(remove, sent('DELETE'), { id: 'again' });
  await on(
    save,
    sent('PUT', { base: 0, brief: { ...easy, limits: { influences: 1, bones: 3, depth: null } } }),
  );
  await changeCharacter(db, id, { brief: 'again' });
  expect((await listCharacters(db)).find((character) => character.id === id)).toMatchObject({ counts: null });
  expect((await briefsOf(db, new Set(['again']))).again).toMatchObject({
    version: 1,
    limits: { influences: 1 },
  });
});

it('a brief that the house brings later leaves one of one’s own under its id alone', async () => {
  await db.deleteFrom('briefs').where('id', '=', 'gltf').execute();
  await on(save, sent('PUT', { base: 0, brief: own({ id: 'gltf', title: 'Ours' }) }));
  await bringBriefs(db);
  expect((await entries()).find((entry) => entry.brief.id === 'gltf')).toMatchObject({
    origin: 'own',
    brief: { title: 'Ours', version: 1 },
  });
});

it('whoever takes up a brief while it is being removed has it, or is told that it is gone', async () => {
  await on(save, sent('PUT', { base: 0, brief: own({ id: 'contested', title: 'Contested' }) }));
  const { id } = await arrive('quay-skeleton.glb', PLAIN_FIGURE);
  const both = await Promise.allSettled([
    changeCharacter(db, id, { brief: 'contested' }),
    on(remove, sent('DELETE'), { id: 'contested' }).then((on) => on.status),
  ]);
  const { brief } = await characterById(db, id);
  const isThere = (await entries()).some((entry) => entry.brief.id === 'contested');
  expect(isThere).toBe(brief === 'contested');
  expect(both[0].status === 'fulfilled').toBe(brief === 'contested');
  await expect(changeCharacter(db, id, { brief: 'nobody' })).rejects.toMatchObject({ status: 404 });
});

it('a brief learned from a revision is one that it fulfils', async () => {
  const { revision } = await arrive('deckhand-clean.glb', PLAIN_FIGURE);
  const asked = sent('POST', { base: 'plain-handset', title: 'As the Deckhand' });
  const { body } = await answered(await on(learn, asked, { id: revision }));
  expect(body).toMatchObject({ eased: [], brief: { title: 'As the Deckhand' } });
  expect(
    audit(castCharacter('deckhand-clean.glb'), readBrief(body.brief)).filter(
      (finding) => finding.gravity !== 'note',
    ),
  ).toEqual([]);
});

it('audits that were made before there were versions name the first one', async () => {
  const rows = await db.selectFrom('audits').select('brief').execute();
  expect(rows.every((row) => /@\d+$/.test(row.brief))).toBe(true);
});

it('a move onto a brief’s own skeleton is done again with the skeleton of then, whatever the brief wants by now', async () => {
  const crew = (skeleton: Skeleton) => {
    const ownSkeleton = ownSkeletonOf(skeleton, 'the crew');
    return readBrief(own({ id: 'crew', title: 'Crew', skeleton: 'own', ownSkeleton }));
  };
  const { id, revision } = await arrive('deckhand-clean.glb', PLAIN_FIGURE);
  await on(save, sent('PUT', { base: 0, brief: crew(QUAY) }));
  await changeCharacter(db, id, { brief: 'crew' });
  const move = { base: revision, limit: 4, target: { id: 'own', title: 'the crew' } };
  expect((await on(remap, sent('POST', move), { id })).status).toBe(201);
  const head = async () => (await characterById(db, id)).revisions.at(-1)!;
  expect((await head()).step).toMatchObject({ kind: 'remap', target: 'own', skeletonOf: 'crew@1' });
  const bones = async () => {
    const { stored, bytes } = await wireOf(db, (await head()).id);
    return skeletonOf(fromStored(stored, (hash) => bytes.get(hash))).bones.map((bone) => bone.name);
  };
  expect(await bones()).toEqual(expect.arrayContaining(QUAY.bones.map((bone) => bone.name)));

  const deliverAgain = async () => {
    const sentFor = upload([['deckhand.glb', castBytes('deckhand-clean.glb')]], {
      base: (await head()).id,
    });
    return (await lastLine(await on(deliver, sentFor, { id }))).rows;
  };
  await on(save, sent('PUT', { base: 1, brief: crew(VRM_HUMANOID) }));
  expect(await deliverAgain()).toEqual([{ label: 'moved to the crew', outcome: 'done' }]);
  expect((await head()).step).toMatchObject({ kind: 'remap', skeletonOf: 'crew@1' });
  expect(await bones()).toEqual(expect.arrayContaining(QUAY.bones.map((bone) => bone.name)));

  await changeCharacter(db, id, { brief: 'handset' });
  await on(remove, sent('DELETE'), { id: 'crew' });
  expect(await deliverAgain()).toEqual([
    {
      label: 'moved to the crew',
      outcome: 'does not fit',
      why: expect.stringMatching(/^Version 1 of the brief “crew” is not in the house any more/),
    },
  ]);
});
