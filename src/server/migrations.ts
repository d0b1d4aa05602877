import { type Kysely, type Migration, Migrator, sql } from 'kysely';

const first: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('blobs')
      .addColumn('hash', 'text', (column) => column.primaryKey())
      .addColumn('bytes', 'bytea', (column) => column.notNull())
      .addColumn('size', 'integer', (column) => column.notNull())
      .execute();
    // The arrays are packed numbers: compressing them again costs time and saves little.
    await sql`alter table blobs alter column bytes set storage external`.execute(db);
    await db.schema
      .createTable('characters')
      .addColumn('id', 'uuid', (column) => column.primaryKey().defaultTo(sql`gen_random_uuid()`))
      .addColumn('name', 'text', (column) => column.notNull())
      .addColumn('brief', 'text', (column) => column.notNull())
      .addColumn('head', 'uuid')
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .addColumn('updated_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .execute();
    await db.schema
      .createTable('revisions')
      .addColumn('id', 'uuid', (column) => column.primaryKey().defaultTo(sql`gen_random_uuid()`))
      .addColumn('character_id', 'uuid', (column) =>
        column.notNull().references('characters.id').onDelete('cascade'),
      )
      .addColumn('number', 'integer', (column) => column.notNull())
      .addColumn('parent', 'uuid', (column) => column.references('revisions.id'))
      .addColumn('label', 'text', (column) => column.notNull())
      .addColumn('step', 'jsonb', (column) => column.notNull())
      .addColumn('manifest', 'text', (column) => column.notNull().references('blobs.hash'))
      .addColumn('picture', 'text', (column) => column.references('blobs.hash'))
      .addColumn('effects', 'jsonb', (column) => column.notNull().defaultTo(sql`'{}'::jsonb`))
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .addUniqueConstraint('revisions_number', ['character_id', 'number'])
      .execute();
    await db.schema.createIndex('revisions_parent').on('revisions').column('parent').execute();
    await db.schema
      .createTable('revision_blobs')
      .addColumn('revision_id', 'uuid', (column) =>
        column.notNull().references('revisions.id').onDelete('cascade'),
      )
      .addColumn('hash', 'text', (column) => column.notNull().references('blobs.hash'))
      .addPrimaryKeyConstraint('revision_blobs_key', ['revision_id', 'hash'])
      .execute();
    await db.schema.createIndex('revision_blobs_hash').on('revision_blobs').column('hash').execute();
    await db.schema
      .createTable('audits')
      .addColumn('revision_id', 'uuid', (column) =>
        column.notNull().references('revisions.id').onDelete('cascade'),
      )
      .addColumn('brief', 'text', (column) => column.notNull())
      .addColumn('findings', 'text', (column) => column.notNull().references('blobs.hash'))
      .addColumn('counts', 'jsonb', (column) => column.notNull())
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .addPrimaryKeyConstraint('audits_key', ['revision_id', 'brief'])
      .execute();
    await db.schema
      .createTable('crosswalks')
      .addColumn('id', 'uuid', (column) => column.primaryKey().defaultTo(sql`gen_random_uuid()`))
      .addColumn('source_fingerprint', 'text', (column) => column.notNull())
      .addColumn('target_fingerprint', 'text', (column) => column.notNull())
      .addColumn('target', 'text', (column) => column.notNull())
      .addColumn('file', 'jsonb', (column) => column.notNull())
      .addColumn('updated_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .addUniqueConstraint('crosswalks_pair', ['source_fingerprint', 'target_fingerprint'])
      .execute();
  },
};

/** Notes on revisions, and pinned measures. */
const ledger: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .alterTable('revisions')
      .addColumn('note', 'text', (column) => column.notNull().defaultTo(''))
      .execute();
    await db.schema
      .createTable('pins')
      .addColumn('id', 'uuid', (column) => column.primaryKey().defaultTo(sql`gen_random_uuid()`))
      .addColumn('character_id', 'uuid', (column) =>
        column.notNull().references('characters.id').onDelete('cascade'),
      )
      .addColumn('label', 'text', (column) => column.notNull())
      .addColumn('ends', 'jsonb', (column) => column.notNull())
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .execute();
    await db.schema.createIndex('pins_character').on('pins').column('character_id').execute();
  },
};

/** Effects say what kind they are; audits say which checks made them. */
const kinds: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`update revisions set effects = case
      when effects ? 'others' then effects || '{"kind": "changed", "outside": []}'::jsonb
      else '{"kind": "none"}'::jsonb end`.execute(db);
    await db.schema
      .alterTable('audits')
      .addColumn('house', 'text', (column) => column.notNull().defaultTo(''))
      .execute();
  },
};

/**
 * What the house has done once and does not do again. A cast that was loaded before this was noted stays as
 * it is.
 */
const once: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('done_once')
      .addColumn('what', 'text', (column) => column.primaryKey())
      .addColumn('at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .execute();
    await sql`insert into done_once (what) select 'cast' where exists (select 1 from characters)`.execute(db);
  },
};

/** How many bones a revision has, for lists that have no time to open it. */
const bones: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema.alterTable('revisions').addColumn('bones', 'integer').execute();
  },
};

/** Briefs, version by version; audits name the version that they were made under. */
const briefs: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('briefs')
      .addColumn('id', 'text', (column) => column.primaryKey())
      .addColumn('origin', 'text', (column) => column.notNull())
      .addColumn('version', 'integer', (column) => column.notNull())
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .execute();
    await db.schema
      .createTable('brief_versions')
      .addColumn('brief_id', 'text', (column) => column.notNull().references('briefs.id').onDelete('cascade'))
      .addColumn('version', 'integer', (column) => column.notNull())
      .addColumn('file', 'jsonb', (column) => column.notNull())
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .addPrimaryKeyConstraint('brief_versions_key', ['brief_id', 'version'])
      .execute();
    await sql`update audits set brief = brief || '@1'`.execute(db);
  },
};

/** Findings that somebody has accepted, by character; audits tell their findings in short, for lists. */
const waivers: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('waivers')
      .addColumn('id', 'uuid', (column) => column.primaryKey().defaultTo(sql`gen_random_uuid()`))
      .addColumn('character_id', 'uuid', (column) =>
        column.notNull().references('characters.id').onDelete('cascade'),
      )
      .addColumn('waiver', 'jsonb', (column) => column.notNull())
      .addColumn('findings', 'jsonb', (column) => column.notNull())
      .addColumn('revision', 'integer', (column) => column.notNull())
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .addColumn('withdrawn_at', 'timestamptz')
      .addColumn('withdrawn_by', 'text')
      .execute();
    await db.schema.createIndex('waivers_character').on('waivers').column('character_id').execute();
    await db.schema.alterTable('audits').addColumn('told', 'jsonb').execute();
  },
};

/** What was handed over. A docket outlives its character, and is never changed. */
const dockets: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('dockets')
      .addColumn('id', 'uuid', (column) => column.primaryKey())
      .addColumn('character_id', 'uuid', (column) => column.notNull())
      .addColumn('name', 'text', (column) => column.notNull())
      .addColumn('revision', 'integer', (column) => column.notNull())
      .addColumn('brief', 'text', (column) => column.notNull())
      .addColumn('brief_title', 'text', (column) => column.notNull())
      .addColumn('by', 'text', (column) => column.notNull())
      .addColumn('note', 'text', (column) => column.notNull())
      .addColumn('counts', 'jsonb', (column) => column.notNull())
      .addColumn('waived', 'integer', (column) => column.notNull())
      .addColumn('left_out', 'integer', (column) => column.notNull())
      .addColumn('file_name', 'text', (column) => column.notNull())
      .addColumn('file_type', 'text', (column) => column.notNull())
      .addColumn('file_bytes', 'integer', (column) => column.notNull())
      .addColumn('file', 'text', (column) => column.notNull().references('blobs.hash'))
      .addColumn('docket', 'text', (column) => column.notNull().references('blobs.hash'))
      .addColumn('report', 'text', (column) => column.notNull().references('blobs.hash'))
      .addColumn('picture', 'text', (column) => column.notNull().references('blobs.hash'))
      .addColumn('created_at', 'timestamptz', (column) => column.notNull())
      .execute();
    await db.schema.createIndex('dockets_character').on('dockets').column('character_id').execute();
    await sql`
      create function docket_stays() returns trigger language plpgsql as $$
      begin raise exception 'a docket is never changed'; end $$
    `.execute(db);
    await sql`
      create trigger dockets_stay before update or delete on dockets
      for each row execute function docket_stays()
    `.execute(db);
  },
};

/** Work that outlives a request, as it is told; the queue keeps tables of its own. */
const jobs: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('jobs')
      .addColumn('id', 'uuid', (column) => column.primaryKey())
      .addColumn('kind', 'text', (column) => column.notNull())
      .addColumn('version', 'integer', (column) => column.notNull())
      .addColumn('title', 'text', (column) => column.notNull())
      .addColumn('input', 'jsonb', (column) => column.notNull())
      .addColumn('character_id', 'uuid', (column) => column.references('characters.id').onDelete('set null'))
      .addColumn('base', 'uuid')
      .addColumn('parent', 'uuid', (column) => column.references('jobs.id').onDelete('cascade'))
      .addColumn('asked_by', 'text', (column) => column.notNull())
      .addColumn('state', 'text', (column) => column.notNull())
      .addColumn('progress', 'jsonb')
      .addColumn('attempts', 'integer', (column) => column.notNull().defaultTo(0))
      .addColumn('worker', 'integer')
      .addColumn('answer', 'jsonb')
      .addColumn('message', 'text')
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .addColumn('started_at', 'timestamptz')
      .addColumn('ended_at', 'timestamptz')
      .execute();
    await db.schema.createIndex('jobs_parent').on('jobs').column('parent').execute();
    await db.schema.createIndex('jobs_character').on('jobs').column('character_id').execute();
    await sql`create index jobs_open on jobs (created_at) where state in ('asked', 'running')`.execute(db);
  },
};

/** Bytes that jobs are sent with, what goes along with their refusals, and what was printed. */
const jobFiles: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema.alterTable('jobs').addColumn('refusal', 'jsonb').execute();
    await db.schema
      .alterTable('jobs')
      .addColumn('lane', 'text', (column) => column.notNull().defaultTo('in heaps'))
      .execute();
    await db.schema
      .alterTable('jobs')
      .addColumn('changes', 'boolean', (column) => column.notNull().defaultTo(false))
      .execute();
    await db.schema
      .createTable('job_blobs')
      .addColumn('job_id', 'uuid', (column) => column.notNull().references('jobs.id').onDelete('cascade'))
      .addColumn('hash', 'text', (column) => column.notNull().references('blobs.hash'))
      .addPrimaryKeyConstraint('job_blobs_key', ['job_id', 'hash'])
      .execute();
    await db.schema.createIndex('job_blobs_hash').on('job_blobs').column('hash').execute();
    await db.schema
      .createTable('prints')
      .addColumn('report', 'text', (column) => column.primaryKey().references('blobs.hash'))
      .addColumn('pdf', 'text', (column) => column.notNull().references('blobs.hash'))
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .execute();
    // Whether a blob is needed is asked of each of these.
    for (const [table, column] of [
      ['revisions', 'manifest'],
      ['revisions', 'picture'],
      ['audits', 'findings'],
      ['dockets', 'file'],
      ['dockets', 'docket'],
      ['dockets', 'report'],
      ['dockets', 'picture'],
      ['prints', 'pdf'],
    ])
      await db.schema.createIndex(`${table}_${column}`).on(table).column(column).execute();
    await db.schema.createIndex('characters_brief').on('characters').column('brief').execute();
    // Whether all parts of one have ended is asked whenever one does.
    await sql`create index jobs_parts_open on jobs (parent) where state in ('asked', 'running')`.execute(db);
    await db.schema.createIndex('jobs_ended').on('jobs').column('ended_at').execute();
  },
};

/** What the house signs with. Of a key that was turned only the public half is left. */
const houseKeys: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('house_keys')
      .addColumn('public_half', 'text', (column) => column.primaryKey())
      .addColumn('private_half', 'text')
      .addColumn('since', 'timestamptz', (column) => column.notNull().defaultTo(sql`clock_timestamp()`))
      .addColumn('until', 'timestamptz')
      .execute();
    await sql`create unique index house_keys_present on house_keys ((true)) where until is null`.execute(db);
  },
};

/** Poses that are kept by name with a character. */
const poses: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .createTable('poses')
      .addColumn('id', 'uuid', (column) => column.primaryKey().defaultTo(sql`gen_random_uuid()`))
      .addColumn('character_id', 'uuid', (column) =>
        column.notNull().references('characters.id').onDelete('cascade'),
      )
      .addColumn('name', 'text', (column) => column.notNull())
      .addColumn('stands', 'jsonb', (column) => column.notNull())
      .addColumn('created_at', 'timestamptz', (column) => column.notNull().defaultTo(sql`now()`))
      .addUniqueConstraint('poses_name', ['character_id', 'name'])
      .execute();
  },
};

/** Audits say whether the figure was moved for them. */
const moved: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema
      .alterTable('audits')
      .addColumn('moved', 'boolean', (column) => column.notNull().defaultTo(false))
      .execute();
  },
};

/** Brings the database up to date; the error of a step that failed is thrown on. */
export async function migrate(db: Kysely<any>): Promise<void> {
  const migrator = new Migrator({
    db,
    provider: {
      getMigrations: async () => ({
        '2026-11-24-first': first,
        '2026-11-25-ledger': ledger,
        '2026-11-26-kinds': kinds,
        '2026-11-26-once': once,
        '2026-11-27-bones': bones,
        '2026-11-28-briefs': briefs,
        '2026-11-29-waivers': waivers,
        '2026-11-30-dockets': dockets,
        '2026-12-01-jobs': jobs,
        '2026-12-02-job-files': jobFiles,
        '2026-12-03-house-keys': houseKeys,
        '2026-12-04-poses': poses,
        '2026-12-05-moved': moved,
      }),
    },
  });
  const { error } = await migrator.migrateToLatest();
  if (error) throw error;
}
