import { userKey } from '@iron-lattice/core/entry';
import { Gate } from '../../platform/gate';
import { DirectoryClient, DirectoryError, type DirectoryAccess, type DirectoryPerson } from './directory-client';

/** Questions that are under way at the same time, and how many wait. */
const [AT_ONCE, MOST_WAITING] = [8, 64];
/** For how long it is held who somebody is, that nobody is known by a name, and that a directory does not answer, in milliseconds. */
const HOLDS_MS = { found: 30_000, nobody: 10_000, fault: 2000 } as const;
const MOST_HELD = 5000;

interface Held {
  readonly until: number;
  readonly found: Promise<DirectoryPerson | null>;
}

/** Asks a directory for many: over few connections, each name once in a while, and nobody waits long for one that does not answer. */
export class DirectoryDesk {
  private access: DirectoryAccess | null = null;
  private readonly idle: DirectoryClient[] = [];
  private readonly held = new Map<string, Held>();
  private failedUntil = 0;
  private readonly gate = new Gate(AT_ONCE, MOST_WAITING);

  constructor(private readonly now: () => number = Date.now) {}

  /** Whether anybody is asked there. */
  get open(): boolean {
    return this.access !== null;
  }

  /** Another directory, or none. */
  put(access: DirectoryAccess | null): void {
    this.access = access && !access.fields.off ? access : null;
    this.held.clear();
    this.failedUntil = 0;
    for (const client of this.idle.splice(0)) void client.close();
  }

  /** Somebody by the name they sign in as; null: it knows nobody by it. @throws Error where it cannot be said now. */
  find(name: string): Promise<DirectoryPerson | null> {
    const key = userKey(name);
    const before = this.held.get(key);
    if (before && before.until > this.now()) return before.found;
    if (this.now() < this.failedUntil) return Promise.reject(new Error('the directory did not answer just now'));
    const found = this.run((client) => client.find(name));
    const keep = (ms: number): void => {
      this.held.delete(key);
      if (this.held.size >= MOST_HELD) this.held.delete(this.held.keys().next().value!);
      this.held.set(key, { until: this.now() + ms, found });
    };
    keep(HOLDS_MS.found);
    found.then(
      (person) => keep(person ? HOLDS_MS.found : HOLDS_MS.nobody),
      (error: unknown) => {
        this.held.delete(key);
        // What is of one name alone keeps nobody else from being asked for.
        if (error instanceof DirectoryError && !['several', 'filter'].includes(error.fault))
          this.failedUntil = this.now() + HOLDS_MS.fault;
      },
    );
    return found;
  }

  /** Whether a password is somebody's; null: it cannot be said now. */
  async proves(person: DirectoryPerson, password: string): Promise<boolean | null> {
    try {
      return await this.run((client) => client.proves(person.dn, password));
    } catch {
      return null;
    }
  }

  /** Does something over a client, which is kept for the next where it went well. */
  private async with<T>(
    client: DirectoryClient,
    access: DirectoryAccess,
    act: (client: DirectoryClient) => Promise<T>,
  ): Promise<T> {
    try {
      const done = await act(client);
      if (this.access === access) this.idle.push(client);
      else void client.close();
      return done;
    } catch (error) {
      void client.close();
      throw error;
    }
  }

  private run<T>(act: (client: DirectoryClient) => Promise<T>): Promise<T> {
    return this.gate.run(async () => {
      const { access } = this;
      if (!access) throw new Error('no directory is asked');
      const kept = this.idle.pop();
      try {
        return await this.with(kept ?? new DirectoryClient(access), access, act);
      } catch (error) {
        // One that lay idle may have been ended by the other side meanwhile.
        const ended = error instanceof DirectoryError && ['unreachable', 'silent', 'rights'].includes(error.fault);
        if (!kept || !ended || this.access !== access) throw error;
        return this.with(new DirectoryClient(access), access, act);
      }
    });
  }
}
