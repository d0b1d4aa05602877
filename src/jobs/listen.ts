/** One connection of this process that hears what is told in the database, for all who want to know. */
import { Client } from 'pg';
import { CHANNEL, type Told } from '../server/told';

type Hear = (told: Told) => void;

/** How long it waits before it looks for the database again, milliseconds. */
const AGAIN = 1000;

/** How long the connection stays where nobody listens, milliseconds: mostly somebody comes soon. */
const IDLE = 30_000;

// Every route is a bundle of its own; they share the process.
const held = globalThis as unknown as { boughEars?: Ears };

class Ears {
  private readonly all = new Set<Hear>();
  private client: Client | null = null;
  private connected: Promise<void> = Promise.resolve();
  private idle: ReturnType<typeof setTimeout> | undefined;

  listen(hear: Hear): () => void {
    clearTimeout(this.idle);
    this.all.add(hear);
    if (!this.client) this.connected = this.connect();
    return () => {
      // Whoever has let go once may say so again.
      if (!this.all.delete(hear) || this.all.size > 0) return;
      clearTimeout(this.idle);
      this.idle = setTimeout(() => this.close(), IDLE);
      this.idle.unref();
    };
  }

  /** Once it hears, or has found that it cannot just now. */
  hearing(): Promise<void> {
    return this.connected;
  }

  close(): void {
    clearTimeout(this.idle);
    const { client } = this;
    this.client = null;
    client?.end().catch(() => {});
  }

  private async connect(): Promise<void> {
    const client = new Client({ connectionString: process.env.DATABASE_URL, keepAlive: true });
    this.client = client;
    client.on('error', () => {});
    client.on('end', () => this.again(client));
    client.on('notification', ({ payload }) => {
      const told = JSON.parse(payload ?? '{}') as Told;
      for (const hear of [...this.all]) hear(told);
    });
    try {
      await client.connect();
      await client.query(`listen ${CHANNEL}`);
      // Alone it does not keep a process from ending.
      (client as Client & { unref(): void }).unref();
    } catch {
      this.again(client);
    }
  }

  private again(client: Client): void {
    if (client !== this.client) return;
    this.client = null;
    setTimeout(() => {
      if (this.all.size > 0 && !this.client) this.connected = this.connect();
    }, AGAIN).unref();
  }
}

const ears = (): Ears => (held.boughEars ??= new Ears());

/** Tells of what happens in the database until the returned is called. What happens while it is away is missed. */
export const listen = (hear: Hear): (() => void) => ears().listen(hear);

/** Ends the connection now; whoever listens later begins a new one. */
export function stopHearing(): void {
  held.boughEars?.close();
  held.boughEars = undefined;
}

/** Settles once what is told is heard; also where it cannot be just now, since it is looked for again. */
export const hearing = (): Promise<void> => ears().hearing();
