import { randomUUID } from 'node:crypto';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { IntentService } from '../../intent/intent.service';
import type { SecretService } from '../../intent/secret.service';
import { clock } from '../../platform/clock';
import { note } from '../../platform/journal';
import { bitsOf, makeAuthority, issue, type Certified, type KeyBits, type Maker } from './authority';

/** How long before its end the controller’s certificate is made anew, in milliseconds. */
const RENEWED_MS = 60 * 86_400_000;

interface Row {
  readonly id: string;
  readonly kind: 'authority' | 'server';
  readonly name: string;
  readonly cert: string;
  readonly sealed: Buffer;
  readonly until: Date;
}

/** What the controller shows to who asks it, and whom they believe it by. */
export interface OwnCertificate {
  readonly name: string;
  readonly cert: string;
  readonly key: string;
  readonly until: Date;
  readonly authority: { readonly cert: string; readonly until: Date };
}

/** The estate’s own authority, and the certificate of the controller: made when they are first wanted, and anew before they end. */
export class CertificateService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly secrets: SecretService,
  ) {}

  /** What the controller shows; all that share a database show the same. @throws AppError `estate.none` before there is an estate. */
  async own(): Promise<OwnCertificate> {
    const kept = await this.kept();
    if (kept && kept.until.getTime() - clock.now() > RENEWED_MS) return kept;
    return this.database.transaction(async (transaction) => {
      await this.database.query("SELECT pg_advisory_xact_lock(hashtext('entry-certificate'))", { transaction });
      // Another controller may have made it meanwhile.
      const now = await this.kept(transaction);
      if (now && now.until.getTime() - clock.now() > RENEWED_MS) return now;
      const { name: estate } = (await this.intents.live(transaction)).intent.estate;
      const rows = await this.rows(transaction);
      const before = rows.find(({ kind }) => kind === 'authority');
      const authority: Certified = before
        ? { cert: before.cert, key: this.secrets.unseal(before.id, before.sealed), until: before.until }
        : await makeAuthority(`${estate} authority`);
      // The name stays when the estate is called otherwise: clients know it.
      const name = rows.find(({ kind }) => kind === 'server')?.name ?? `${slugOf(estate)}.radius.internal`;
      const server = await issue(authority, { kind: 'server', name });
      if (!before) await this.put('authority', `${estate} authority`, authority, transaction);
      await this.put('server', name, server, transaction);
      await note(this.database, null, 'certificate.made', { name, until: server.until.toISOString() }, transaction);
      return { name, ...server, authority };
    });
  }

  /** Has the authority do what only it can: its key is seen by nobody else. */
  async byAuthority<T>(act: (authority: Maker) => Promise<T>): Promise<T> {
    await this.own(); // there is one from now on
    const { id, cert, sealed } = (await this.rows()).find(({ kind }) => kind === 'authority')!;
    return act({ cert, key: this.secrets.unseal(id, sealed) });
  }

  /** Bits of the keys of the estate’s authority; null: it has none yet. */
  async authorityBits(): Promise<KeyBits | null> {
    const authority = (await this.rows()).find(({ kind }) => kind === 'authority');
    return authority ? bitsOf(authority.cert) : null;
  }

  private async kept(transaction?: Transaction): Promise<OwnCertificate | null> {
    const rows = await this.rows(transaction);
    const [authority, server] = (['authority', 'server'] as const).map((kind) => rows.find((row) => row.kind === kind));
    if (!authority || !server) return null;
    const { name, cert, until } = server;
    return { name, cert, until, key: this.secrets.unseal(server.id, server.sealed), authority };
  }

  /** The latest of each kind first. */
  private rows(transaction?: Transaction): Promise<Row[]> {
    return this.database.query<Row>('SELECT * FROM entry_certificate ORDER BY until DESC LIMIT 100', {
      type: QueryTypes.SELECT,
      ...(transaction ? { transaction } : {}),
    });
  }

  private async put(
    kind: Row['kind'],
    name: string,
    { cert, key, until }: Certified,
    transaction: Transaction,
  ): Promise<void> {
    const id = randomUUID();
    await this.database.query(
      'INSERT INTO entry_certificate (id, kind, name, cert, sealed, until) VALUES (:id, :kind, :name, :cert, :sealed, :until)',
      { replacements: { id, kind, name, cert, sealed: this.secrets.seal(id, key), until }, transaction },
    );
  }
}

/** A name as a part of a host’s name. */
const slugOf = (text: string): string =>
  text
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 40) || 'estate';
