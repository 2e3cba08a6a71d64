import { flaw, textFault, type SearchHit } from '@iron-lattice/core/base';
import {
  MOST_CLIENT_TEXT,
  MOST_COUNTED,
  MOST_REGISTERED_TOLD,
  type ClientStay,
  type RegisteredClient,
  type RegisterView,
} from '@iron-lattice/core/entry';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { IntentService } from '../../intent/intent.service';
import { AppError, unknown } from '../../platform/app-error';
import type { Bus } from '../../platform/bus';
import { note } from '../../platform/journal';
import { likeOf } from '../../platform/like';
import { CLIENT_TRACES } from '../../roster/client-traces';
import type { GuestEraser } from '../../roster/guest-offer';
import { MOST_PLACES, type RegisterBook } from './register-book';
import { STAY_COLUMNS, StayWords, type StayRow } from './register-rows';

/** Characters from which a client is looked for by name. */
const LEAST_WORDS = 3;
/** That a client has some words: in its MAC address, a name, a note, or who it was. */
const HAS_WORDS = `(replace(c.mac, ':', '') LIKE :mac OR c.name ILIKE :like OR c.note ILIKE :like OR c.said ILIKE :like
  OR EXISTS (SELECT 1 FROM client_place e WHERE e.mac = c.mac AND e.body->>'user' ILIKE :like))`;
/** Words as patterns; however a MAC address is written, it is found. @param plain in lower case. */
function patternsOf(plain: string): { readonly like: string; readonly mac: string } {
  const digits = plain.replace(/[:.-]/g, '');
  return {
    like: likeOf(plain),
    mac: `%${/^[0-9a-f]+$/.test(digits) ? digits : '\\'}%`,
  };
}

declare module '../../platform/bus' {
  interface BusMessages {
    /** These clients were erased: what any controller still had to write down of them goes too. */
    erased: { macs: readonly string[] };
  }
}

/** What people say of a client. */
export interface ClientSaid {
  readonly name: string;
  readonly note: string;
}
/** Which clients of the register are wanted. */
export interface RegisterAsked {
  /** Part of a MAC address, a name, a note, or of who it was. */
  readonly words?: string | undefined;
  readonly siteId?: string | undefined;
}

type ListedRow = { mac: string; name: string; note: string; said: string; c_first: Date; c_last: Date } & {
  [K in keyof StayRow]: StayRow[K] | null;
};

/** Everybody who was ever seen and is not erased. */
export class RegisterService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    /** Who is written down a moment later than heard, and once all that waits to be kept of clients is. */
    private readonly waits: { readonly book: RegisterBook; readonly settled: () => Promise<void> },
    private readonly bus: Bus,
    private readonly guests: GuestEraser,
  ) {}

  /** Those seen last, with where that was. */
  async list({ words = '', siteId }: RegisterAsked): Promise<RegisterView> {
    await this.waits.book.flush();
    const plain = words.trim().toLowerCase();
    const replacements = { siteId: siteId ?? null, ...patternsOf(plain) };
    const where = [
      ...(siteId === undefined
        ? []
        : ['EXISTS (SELECT 1 FROM client_place e WHERE e.mac = c.mac AND e.site_id = :siteId)']),
      ...(plain === '' ? [] : [HAS_WORDS]),
    ].join(' AND ');
    const from = `FROM client_seen c ${where === '' ? '' : `WHERE ${where}`}`;
    const [rows, counted, live] = await Promise.all([
      this.database.query<ListedRow>(
        `SELECT c.mac, c.name, c.note, c.said, c.first_at AS c_first, c.last_at AS c_last, p.*
         FROM (SELECT * ${from} ORDER BY c.here DESC, c.last_at DESC, c.mac LIMIT ${MOST_REGISTERED_TOLD}) c
         LEFT JOIN LATERAL (SELECT ${STAY_COLUMNS.replace('p.mac, ', '')} FROM client_place p JOIN device d ON d.id = p.device_id
           LEFT JOIN site s ON s.id = p.site_id WHERE p.mac = c.mac ${siteId === undefined ? '' : 'AND p.site_id = :siteId'}
           ORDER BY p.here AND d.online DESC, p.last_at DESC, p.place LIMIT 1) p ON true
         ORDER BY c.here DESC, c.last_at DESC, c.mac`,
        { replacements, type: QueryTypes.SELECT },
      ),
      this.database.query<{ count: string }>(`SELECT count(*) FROM (SELECT 1 ${from} LIMIT ${MOST_COUNTED}) counted`, {
        replacements,
        type: QueryTypes.SELECT,
      }),
      this.intents.live(),
    ]);
    const say = new StayWords(live);
    return { clients: rows.map((row) => listed(row, say)), count: Number(counted[0]!.count) };
  }

  /** Those seen last of whom something has some words, as they are found by name; of less than three characters none: that would be everybody. */
  async find(words: string, most: number): Promise<SearchHit[]> {
    const plain = words.trim().toLowerCase();
    if (plain.length < LEAST_WORDS) return [];
    const rows = await this.database.query<{ mac: string; name: string; note: string; said: string; last: Date }>(
      `SELECT c.mac, c.name, c.note, c.said, c.last_at AS last FROM client_seen c WHERE ${HAS_WORDS}
       ORDER BY c.here DESC, c.last_at DESC, c.mac LIMIT :most`,
      { replacements: { ...patternsOf(plain), most }, type: QueryTypes.SELECT },
    );
    return rows.map(({ mac, name, note: why, said, last }) => ({
      ...{ kind: 'client', id: mac, siteId: null, title: name || said || mac },
      detail: `Client ${mac}, seen ${last.toISOString().slice(0, 10)}${why ? `: ${why}` : ''}`,
    }));
  }

  /** Where a client was, the latest first. */
  async stays(mac: string): Promise<ClientStay[]> {
    await this.waits.book.flush();
    const rows = await this.database.query<StayRow>(
      `SELECT ${STAY_COLUMNS} FROM client_place p JOIN device d ON d.id = p.device_id LEFT JOIN site s ON s.id = p.site_id
       WHERE p.mac = :mac ORDER BY p.here AND d.online DESC, p.last_at DESC LIMIT ${MOST_PLACES}`,
      { replacements: { mac }, type: QueryTypes.SELECT },
    );
    const say = new StayWords(await this.intents.live());
    return rows.map((row) => say.of(row));
  }

  /** Names that people gave some clients. */
  names(macs: readonly string[]): Promise<ReadonlyMap<string, string>> {
    return this.called(macs, 'name');
  }

  /** The same; of those whom nobody gave one, what they call themselves. */
  hosts(macs: readonly string[]): Promise<ReadonlyMap<string, string>> {
    return this.called(macs, `COALESCE(NULLIF(name, ''), said)`);
  }

  private async called(macs: readonly string[], as: string): Promise<ReadonlyMap<string, string>> {
    if (macs.length === 0) return new Map();
    const rows = await this.database.query<{ mac: string; name: string }>(
      `SELECT mac, ${as} AS name FROM client_seen WHERE ${as} <> '' AND mac IN (SELECT jsonb_array_elements_text(:macs::jsonb))`,
      { replacements: { macs: JSON.stringify(macs) }, type: QueryTypes.SELECT },
    );
    return new Map(rows.map(({ mac, name }) => [mac, name]));
  }

  /**
   * Gives a client a name and a note.
   * @param was what whoever says so saw there. @throws AppError `client.changed` where that is not there any more.
   */
  async say(mac: string, was: ClientSaid, to: ClientSaid, personId: string): Promise<void> {
    const next = { name: to.name.trim(), note: to.note.trim() };
    const flaws = (['name', 'note'] as const).flatMap((field) => {
      if (next[field].length > MOST_CLIENT_TEXT[field])
        return [flaw('client.long', `The ${field} has ${MOST_CLIENT_TEXT[field]} characters at most.`, field)];
      const fault = textFault(next[field]);
      return fault === null ? [] : [flaw('client.signs', `The ${field} ${fault}.`, field)];
    });
    if (flaws.length > 0) throw new AppError('client.refused', flaws[0]!.message, flaws);
    await this.database.transaction(async (transaction) => {
      const [row] = await this.database.query<ClientSaid>(
        'SELECT name, note FROM client_seen WHERE mac = :mac FOR UPDATE',
        {
          ...{ replacements: { mac }, transaction },
          type: QueryTypes.SELECT,
        },
      );
      if (!row) throw unknown('client in the register');
      if (row.name !== was.name || row.note !== was.note)
        throw new AppError('client.changed', 'Somebody named this client meanwhile. Look at it again.');
      await this.database.query('UPDATE client_seen SET name = :name, note = :note WHERE mac = :mac', {
        ...{ replacements: { ...next, mac }, transaction },
      });
      // The journal is kept for good, and the register is not: who it was does not go there.
      await note(this.database, personId, 'client.say', {}, transaction);
    });
  }

  /** Erases clients, with all that is kept of them. @returns how many there were. */
  async forget(macs: readonly string[], personId: string): Promise<{ count: number }> {
    await this.waits.settled();
    const count = await this.database.transaction(async (transaction) => {
      const gone = await this.erase(macs, 'true', transaction);
      await this.guests(macs, transaction);
      await note(this.database, personId, 'client.forget', { count: gone }, transaction);
      return gone;
    });
    await this.bus.send('erased', { macs });
    return { count };
  }

  /** What waited at any controller when they were erased goes too: of those who are not there, all; of those who are, where they were. */
  async forgetLate(macs: readonly string[]): Promise<void> {
    await this.waits.settled();
    await this.database.transaction((transaction) => this.erase(macs, 'NOT here', transaction));
  }

  /** @returns how many of those that meet a condition there were. */
  private async erase(macs: readonly string[], who: string, transaction: Transaction): Promise<number> {
    const options = { replacements: { macs: JSON.stringify(macs) }, transaction };
    const gone = await this.database.query<{ mac: string }>(
      `DELETE FROM client_seen WHERE mac IN (SELECT jsonb_array_elements_text(:macs::jsonb)) AND ${who} RETURNING mac`,
      { ...options, type: QueryTypes.SELECT },
    );
    for (const table of ['entry_failure', ...CLIENT_TRACES.map((each) => each.table)])
      await this.database.query(
        `DELETE FROM ${table} WHERE mac IN (SELECT jsonb_array_elements_text(:macs::jsonb))`,
        options,
      );
    return gone.length;
  }
}

function listed(row: ListedRow, say: StayWords): RegisteredClient {
  const { mac, name, note: noted, said, c_first: first, c_last: last } = row;
  const stay = row.place === null ? null : say.of(row as StayRow);
  const lastAt = last.toISOString();
  return {
    ...{ mac, name, note: noted, said },
    firstAt: first.toISOString(),
    lastAt: stay && stay.lastAt > lastAt ? stay.lastAt : lastAt,
    here: stay?.here ?? false,
    last: stay ?? NOWHERE,
  };
}

/** Where those were of whose devices none is ours any more. */
const NOWHERE: ClientStay = {
  ...{
    siteId: null,
    site: '',
    device: '',
    ssid: null,
    port: null,
    segment: '',
    accessClass: '',
    user: '',
    server: '',
    address: '',
  },
  ...{ firstAt: '', lastAt: '', here: false, times: 0 },
};
