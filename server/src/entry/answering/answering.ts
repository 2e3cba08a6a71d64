import type { Worker } from 'node:worker_threads';
import type { Answering as AnsweringView } from '@iron-lattice/core/entry';
import { QueryTypes, type Sequelize } from 'sequelize';
import { AppError } from '../../platform/app-error';
import type { Bus } from '../../platform/bus';
import { Gate } from '../../platform/gate';
import { later } from '../../platform/held-connection';
import { startThread } from '../../platform/thread';
import { WriteBehind } from '../../platform/write-behind';
import type { Proof, ProofAsked } from '../../roster/user-offer';
import type { AnsweringStart, FromThread, KnownEntry, ToThread } from './answering.contract';
import type { DirectoryService } from '../directory/directory.service';
import type { CertificateService } from '../certificates/certificate.service';
import type { AskingDevices } from './asking-devices';
import { RefusalBook } from './refusal-book';

/** Devices that are looked up at the same time, and how many wait. */
const [LOOKED_UP, MOST_WAITING] = [4, 1000];
/** Who came is written together, this soon, and that many in a statement. */
const [SOON_MS, MOST_WRITTEN] = [200, 1000];
/** How long it takes until a thread that ended by itself is started again, in milliseconds. */
const AGAIN_MS = 1000;
/** The same where its port is taken. */
const RETRY_MS = 10_000;
/** Changes of what is live are taken together for so long, in milliseconds. */
const FORGET_MS = 250;
/** That users came is told people this often at most, in milliseconds; and of how many other controllers are told one by one. */
const [TELL_MS, MOST_TOLD] = [2000, 200];
/** How often it is looked whether the certificate ends soon, and while there is none yet, in milliseconds. */
const [LOOK_MS, SOON_LOOK_MS] = [6 * 3_600_000, 2000];
/** Questions of the controller itself that wait for the thread, and for how long, in milliseconds. */
const [MOST_PROVED, PROVE_MS] = [200, 15_000];
/** Devices of a user that are remembered. */
const MOST_DEVICES = 1000;

interface Came {
  readonly userId: string;
  readonly mac: string | null;
  readonly deviceId: string;
}

/** Keeps the thread that answers who somebody is: with users and devices as they are, and again when it ended. */
export class Answering {
  private thread: Worker | null = null;
  private state: AnsweringView = { port: null, why: 'it is being started' };
  private closed = false;
  private proofs = 0;
  private readonly proving = new Map<number, (proof: Proof) => void>();
  private againMs = AGAIN_MS;
  private opened: (() => void) | null = null;
  private forgetting: NodeJS.Timeout | null = null;
  private telling: NodeJS.Timeout | null = null;
  private looking: NodeJS.Timeout | null = null;
  private readonly leave: (() => void)[] = [];
  private readonly gate = new Gate(LOOKED_UP, MOST_WAITING);
  private readonly came: WriteBehind<Came>;
  private readonly refusals: RefusalBook;

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
    private readonly devices: AskingDevices,
    private readonly certificates: CertificateService,
    private readonly directory: Pick<DirectoryService, 'access'>,
    private readonly failed: (error: unknown) => void,
    /** Is told at which UDP port it answers, each time that it begins to. */
    private readonly answers: (port: number) => void,
  ) {
    this.refusals = new RefusalBook(database, failed);
    this.came = new WriteBehind<Came>({
      write: async (entries) => {
        await this.write([...entries.values()]);
        return [];
      },
      merge: (_older, newer) => newer,
      bad: (_key, error) => failed(error),
      failed,
      soonMs: SOON_MS,
      most: MOST_WRITTEN,
    });
  }

  /** How it fares. */
  get view(): AnsweringView {
    return this.state;
  }

  /** Begins to answer; waits until it does, or says why not. @param start null: it is not to answer. */
  async begin(start: AnsweringStart | null): Promise<void> {
    if (!start) {
      this.state = { port: null, why: 'it is switched off (LATTICE_ENTRY_PORT=off)' };
      return;
    }
    this.leave.push(
      this.bus.on('users', ({ ids }) => void this.users(ids).catch(this.failed)),
      this.bus.on('directory', () => void this.lookThere().catch(this.failed)),
      this.bus.on('live', ({ type }) => {
        if (type === 'rollout' || type === 'gone' || type === 'site') this.forgetSoon();
      }),
      this.bus.onReopened(() => void Promise.all([this.users([]), this.lookThere()]).catch(this.failed)),
    );
    const opened = new Promise<void>((resolve) => (this.opened = resolve));
    this.start(start);
    await opened;
  }

  /** Whether a name and a password are right; nobody waits longer than that is worth. */
  prove(asked: ProofAsked): Promise<Proof> {
    if (!this.thread || this.closed || this.proving.size >= MOST_PROVED) return Promise.resolve('later');
    const id = ++this.proofs;
    return new Promise((resolve) => {
      const end = (proof: Proof): void => {
        clearTimeout(late);
        this.proving.delete(id);
        resolve(proof);
      };
      const late = later(PROVE_MS, () => end('later'));
      this.proving.set(id, end);
      this.tell({ type: 'prove', id, ...asked });
    });
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const end of [...this.proving.values()]) end('later');
    for (const each of this.leave) each();
    for (const timer of [this.forgetting, this.telling, this.looking]) if (timer) clearTimeout(timer);
    this.tell({ type: 'end' });
    await this.thread?.terminate();
    await this.came.close();
    await this.refusals.close();
  }

  private start(start: AnsweringStart): void {
    const thread = startThread(new URL('./answering.heavy.ts', import.meta.url), start);
    this.thread = thread;
    this.againMs = AGAIN_MS;
    thread.on('message', (message: FromThread) => void this.hear(message).catch(this.failed));
    thread.on('error', this.failed);
    thread.once('exit', () => {
      this.opened?.(); // nobody waits for what does not come
      if (this.closed || this.thread !== thread) return;
      const { port, why } = this.state;
      this.state = { port: null, why: why || 'it ended by itself and is being started again' };
      later(this.againMs, () => {
        if (!this.closed) this.start({ ...start, port: port ?? start.port }); // devices were told that port
      });
    });
    this.users([]).catch(this.failed);
    this.certificate().catch(this.failed);
    this.lookThere().catch(this.failed);
  }

  /** Has the thread ask the directory as it is kept. */
  private async lookThere(): Promise<void> {
    this.tell({ type: 'directory', access: await this.directory.access() });
  }

  /** Has the thread show what is kept, made anew where it ends soon. An empty controller has none yet. */
  private async certificate(): Promise<void> {
    const own = await this.certificates.own().catch((error: unknown) => {
      if (error instanceof AppError && error.code === 'estate.none') return null;
      throw error;
    });
    if (own) this.tell({ type: 'certificate', cert: own.cert, key: own.key, authority: own.authority.cert });
    if (this.looking) clearTimeout(this.looking);
    if (!this.closed)
      this.looking = later(own ? LOOK_MS : SOON_LOOK_MS, () => void this.certificate().catch(this.failed));
  }

  private tell(message: ToThread): void {
    this.thread?.postMessage(message);
  }

  private async hear(message: FromThread): Promise<void> {
    switch (message.type) {
      case 'open':
      case 'shut':
        this.state = message.type === 'open' ? { port: message.port, why: '' } : { port: null, why: message.why };
        this.opened?.();
        if (message.type === 'open') return this.answers(message.port);
        // The port may be free a little later.
        this.againMs = RETRY_MS;
        return this.tell({ type: 'end' });
      case 'proved':
        return this.proving.get(message.id)?.(message.proof);
      case 'came':
        return this.came.put(`${message.userId} ${message.mac}`, message);
      case 'refused':
        return this.refusals.put(message);
      case 'who': {
        const { mac } = message;
        const asking = await this.gate
          .run(() => this.devices.find(mac))
          .catch((error: unknown) => {
            if (!(error instanceof RangeError)) this.failed(error);
            return undefined; // it is asked for again
          });
        if (asking !== undefined) this.tell({ type: 'asking', mac, asking });
      }
    }
  }

  /** Has the thread look at users anew. @param ids none: at all. */
  private async users(ids: readonly string[]): Promise<void> {
    const all = ids.length === 0;
    const rows = await this.database.query<Omit<KnownEntry, 'macs'> & { readonly macs: readonly string[] | null }>(
      `SELECT u.id, u.key, u.hash, u.groups, u.until, u.most, u.off,
         CASE WHEN u.most IS NOT NULL THEN (SELECT array_agg(d.mac) FROM entry_user_device d WHERE d.user_id = u.id) END AS macs,
         coalesce((SELECT array_agg(i.sha256) FROM entry_issued i WHERE i.user_id = u.id AND i.revoked_at IS NULL AND i.until > now()), '{}') AS certificates
       FROM entry_user u WHERE u.removed_at IS NULL ${all ? '' : 'AND u.id = ANY(ARRAY[:ids]::uuid[])'}`,
      { replacements: { ids: [...ids] }, type: QueryTypes.SELECT },
    );
    const users = rows.map((row) => ({ ...row, macs: row.macs ?? [] }));
    const there = new Set(users.map(({ id }) => id));
    this.tell({ type: 'users', users, gone: ids.filter((id) => !there.has(id)), all });
  }

  /** What is live changed: who devices are, and which classes groups have, is looked at anew. */
  private forgetSoon(): void {
    this.forgetting ??= setTimeout(() => {
      this.forgetting = null;
      this.tell({ type: 'forget' });
    }, FORGET_MS);
  }

  private async write(all: readonly Came[]): Promise<void> {
    const rows = JSON.stringify(all.map(({ userId, mac, deviceId }) => ({ id: userId, mac, device: deviceId })));
    const counted = await this.database.query<{ id: string }>(
      `WITH r AS (SELECT * FROM jsonb_to_recordset(:rows::jsonb) AS r(id uuid, mac text, device uuid)),
         put AS (INSERT INTO entry_user_device (user_id, mac, device_id)
           SELECT r.id, r.mac, v.id FROM r JOIN entry_user u ON u.id = r.id LEFT JOIN device v ON v.id = r.device
           WHERE r.mac IS NOT NULL AND (SELECT count(*) FROM entry_user_device d WHERE d.user_id = r.id) < ${MOST_DEVICES}
           ON CONFLICT (user_id, mac) DO UPDATE SET last_at = now(), device_id = excluded.device_id RETURNING user_id, xmax = 0 AS fresh),
         seen AS (UPDATE entry_user SET last_at = now() WHERE id IN (SELECT id FROM r))
       SELECT DISTINCT u.id FROM entry_user u JOIN put ON put.user_id = u.id AND put.fresh WHERE u.most IS NOT NULL`,
      { replacements: { rows }, type: QueryTypes.SELECT },
    );
    // Others that answer count devices too.
    if (counted.length > 0)
      await this.bus.send('users', { ids: counted.length > MOST_TOLD ? [] : counted.map(({ id }) => id) });
    this.telling ??= later(TELL_MS, () => {
      this.telling = null;
      this.bus.send('live', { type: 'users' }).catch(this.failed);
    });
  }
}
