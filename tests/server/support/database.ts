import { Kysely, PostgresDialect, sql } from 'kysely';
import { Pool } from 'pg';

/** A database of a test file's own beside the one that was given, so that files can run at the same time. */
export async function ownDatabase(name: string): Promise<{ url: string; drop: () => Promise<void> }> {
  const given = new URL(process.env.DATABASE_URL as string);
  const admin = new Kysely<unknown>({
    dialect: new PostgresDialect({ pool: new Pool({ connectionString: given.href, max: 1 }) }),
  });
  await sql`drop database if exists ${sql.id(name)} with (force)`.execute(admin);
  await sql`create database ${sql.id(name)}`.execute(admin);
  const url = new URL(given);
  url.pathname = `/${name}`;
  return {
    url: url.href,
    drop: async () => {
      await sql`drop database if exists ${sql.id(name)} with (force)`.execute(admin);
      await admin.destroy();
    },
  };
}
