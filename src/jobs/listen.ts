/** One connection of this process that hears what is told in the database, for all who want to know. */
import { Client } from 'pg';
import { CHANNEL, type Told } from '../server/told';

type Hear = (told: Told) => void;

/** How long it waits before it looks for the database again, milliseconds. */
const AGAIN = 1000;

// Every route is a bundle of its own; they share the process.
const held = globalThis as unknown as { boughEars?: Ears };

class Ears {
  private readonly all = new Set<Hear>();
  private client: Client | null = null;

  listen(hear: Hear): () => void {
    this.all.add(hear);
    if (this.all.size === 1) void this.connect();
    return () => {
      this.all.delete(hear);
      if (this.all.size > 0) return;
      const { client } = this;
      this.client = null;
      client?.end().catch(() => {});
    };
  }

  private async connect(): Promise<void> {
    const client = new Client({ connectionString: process.env.DATABASE_URL, keepAlive: true });
    this.client = client;
    client.on('error', () => {});
    client.on('end', () => this.again(client));
    client.on('notification', ({ payload }) => {
      const told = JSON.parse(payload ?? '{}') as Told;
      for (const hear of this.all) hear(told);
    });
    try {
      await client.connect();
      await client.query(`listen ${CHANNEL}`);
    } catch {
      this.again(client);
    }
  }

  private again(client: Client): void {
    if (client !== this.client) return;
    this.client = null;
    setTimeout(() => {
      if (this.all.size > 0 && !this.client) void this.connect();
    }, AGAIN).unref();
  }
}

/** Tells of what happens in the database until the returned is called. What happens while it is away is missed. */
export const listen = (hear: Hear): (() => void) => (held.boughEars ??= new Ears()).listen(hear);
