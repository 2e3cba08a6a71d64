import {
  CERTIFICATE_DAYS,
  drawPassword,
  MOST_CERTIFICATES,
  MOST_COMMON_NAME,
  MOST_LABEL,
  type IssuedCertificate,
  type MadeCertificate,
} from '@iron-lattice/core/entry';
import { flaw, textFault } from '@iron-lattice/core/base';
import { randomFillSync } from 'node:crypto';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { AppError, unknown } from '../../platform/app-error';
import type { Bus } from '../../platform/bus';
import { clock } from '../../platform/clock';
import { note } from '../../platform/journal';
import { issue, revocationList, type Issued } from './authority';
import type { CertificateService } from './certificate.service';
import type { EndingCertificates } from './ending-certificates';
import { pkcs12Of } from './pkcs12';

/** Certificates that are told; and those of servers that hold at the same time. */
const [MOST_TOLD, MOST_OF_SERVERS] = [50_000, 1000];
/** A host’s name of two parts or more (RFC 1123 §2.1). */
const HOST_NAME = /^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?(\.[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?)+$/;
/** How long a list of what was taken back is told as it is, in milliseconds. */
const LIST_MS = 30_000;

interface Row {
  serial: string;
  kind: IssuedCertificate['kind'];
  user_id: string | null;
  name: string;
  label: string;
  made_at: Date;
  until: Date;
  revoked_at: Date | null;
  by: string;
}

/** Certificates that the estate’s authority makes for users and servers, and takes back. Nobody keeps their keys. */
export class IssuedService {
  private list: { readonly at: number; readonly made: Promise<Uint8Array> } | null = null;

  constructor(
    private readonly database: Sequelize,
    private readonly certificates: CertificateService,
    private readonly bus: Bus,
    private readonly ending: EndingCertificates,
  ) {}

  /** Those of users that are kept, by user, and those of servers; the newest first. */
  async all(): Promise<readonly (IssuedCertificate & { readonly userId: string | null })[]> {
    const rows = await this.database.query<Row>(
      `SELECT i.serial, i.kind, i.user_id, i.name, i.label, i.made_at, i.until, i.revoked_at, p.name AS by
       FROM entry_issued i JOIN person p ON p.id = i.person_id WHERE i.until > now() - interval '30 days'
       ORDER BY i.made_at DESC, i.serial LIMIT ${MOST_TOLD}`,
      { type: QueryTypes.SELECT },
    );
    return rows.map(({ user_id: userId, made_at: made, until, revoked_at: revoked, ...row }) => ({
      ...{ ...row, userId, madeAt: made.toISOString(), until: until.toISOString() },
      revokedAt: revoked?.toISOString() ?? null,
    }));
  }

  /** Makes a user a certificate, which acts at once; its key is told this once. */
  async forUser(
    userId: string,
    { label, days }: { readonly label: string; readonly days: number },
    personId: string,
  ): Promise<MadeCertificate> {
    const plain = label.trim();
    const fault = textFault(plain);
    if (fault !== null || plain.length > MOST_LABEL)
      throw refused('label', fault === null ? `It has ${MOST_LABEL} characters at most.` : `It ${fault}.`);
    const [user] = await this.database.query<{ name: string }>(
      'SELECT name FROM entry_user WHERE id = :userId AND removed_at IS NULL',
      { replacements: { userId }, type: QueryTypes.SELECT },
    );
    if (!user) throw unknown('user');
    if ([...user.name].length > MOST_COMMON_NAME)
      throw refused(
        'label',
        `A certificate has names of ${MOST_COMMON_NAME} characters at most; this user’s is longer.`,
      );
    const made = await this.make({ kind: 'user', name: user.name, label: plain, userId }, days, personId);
    await this.told(userId);
    return made;
  }

  /** Makes the certificate of a server that is not this controller. */
  async forServer(name: string, days: number, personId: string): Promise<MadeCertificate> {
    const plain = name.trim().toLowerCase();
    if (!HOST_NAME.test(plain) || plain.length > MOST_COMMON_NAME)
      throw refused(
        'name',
        `That is no name of a server, such as quay.radius.internal, of ${MOST_COMMON_NAME} characters at most.`,
      );
    if (plain === (await this.certificates.own()).name)
      throw refused('name', 'That is the name of this controller: clients would believe another in its place.');
    return this.make({ kind: 'server', name: plain, label: '', userId: null }, days, personId);
  }

  /** Takes a certificate back, for good. */
  async revoke(serial: string, personId: string): Promise<void> {
    const [row] = await this.database.query<{ user_id: string | null; name: string }>(
      'UPDATE entry_issued SET revoked_at = now() WHERE serial = :serial AND revoked_at IS NULL RETURNING user_id, name',
      { replacements: { serial }, type: QueryTypes.SELECT },
    );
    if (!row) throw unknown('certificate that holds');
    this.list = null;
    await note(this.database, personId, 'certificate.revoke', { name: row.name, serial });
    await this.told(row.user_id);
  }

  /** What was taken back and would hold otherwise (RFC 5280 §5), and those of users who are no more; as DER. */
  revocations(): Promise<Uint8Array> {
    if (this.list && clock.now() - this.list.at < LIST_MS) return this.list.made;
    const made = this.revoked();
    this.list = { at: clock.now(), made };
    made.catch(() => (this.list = null));
    return made;
  }

  private async revoked(): Promise<Uint8Array> {
    const rows = await this.database.query<{ serial: string; at: Date; held: boolean }>(
      `SELECT i.serial, i.revoked_at IS NULL AND u.id IS NOT NULL AS held, coalesce(i.revoked_at, u.removed_at, i.made_at) AS at FROM entry_issued i LEFT JOIN entry_user u ON u.id = i.user_id
       WHERE i.until > now() AND (i.revoked_at IS NOT NULL OR i.kind = 'user' AND (u.id IS NULL OR u.removed_at IS NOT NULL))
       ORDER BY 2, 1`,
      { type: QueryTypes.SELECT },
    );
    return this.certificates.byAuthority((authority) => revocationList(authority, rows));
  }

  private async make(
    of: {
      readonly kind: 'user' | 'server';
      readonly name: string;
      readonly label: string;
      readonly userId: string | null;
    },
    days: number,
    personId: string,
  ): Promise<MadeCertificate> {
    const made = await this.certificates.byAuthority(async (authority) => ({
      ...(await issue(authority, of, Math.min(days, CERTIFICATE_DAYS.most))),
      authority: authority.cert,
    }));
    await this.database.transaction(async (transaction) => {
      await this.room(of, transaction);
      await this.keep(of, made, personId, transaction);
    });
    this.ending.forget();
    const { serial, cert, key, authority, until } = made;
    const password = drawPassword((count) => randomFillSync(new Uint32Array(count)));
    const pkcs12 = await pkcs12Of({ cert, key, authority, name: of.name }, password);
    return {
      ...{ serial, name: of.name, label: of.label, until: until.toISOString(), cert, key, authority, password },
      pkcs12: Buffer.from(pkcs12).toString('base64'),
    };
  }

  private async room(
    { kind, userId }: { kind: string; userId: string | null },
    transaction: Transaction,
  ): Promise<void> {
    await this.database.query("SELECT pg_advisory_xact_lock(hashtext('entry-issued'))", { transaction });
    const [row] = await this.database.query<{ count: number }>(
      `SELECT count(*)::int AS count FROM entry_issued WHERE revoked_at IS NULL AND until > now() AND kind = :kind
       AND user_id IS NOT DISTINCT FROM :userId::uuid`,
      { replacements: { kind, userId }, type: QueryTypes.SELECT, transaction },
    );
    const most = kind === 'user' ? MOST_CERTIFICATES : MOST_OF_SERVERS;
    if (row!.count >= most)
      throw refused('label', `There are ${most} that hold, which are as many as may. Take one back first.`);
  }

  private async keep(
    { kind, name, label, userId }: { kind: string; name: string; label: string; userId: string | null },
    { serial, sha256, until }: Issued,
    personId: string,
    transaction: Transaction,
  ): Promise<void> {
    await this.database.query(
      `INSERT INTO entry_issued (serial, kind, user_id, name, label, sha256, person_id, until)
       VALUES (:serial, :kind, :userId, :name, :label, :sha256, :personId, :until)`,
      { replacements: { serial, kind, userId, name, label, sha256, personId, until }, transaction },
    );
    await note(
      this.database,
      personId,
      'certificate.issue',
      { kind, name, label, until: until.toISOString() },
      transaction,
    );
  }

  private async told(userId: string | null): Promise<void> {
    this.ending.forget();
    if (userId !== null) await this.bus.send('users', { ids: [userId] });
    await this.bus.send('live', { type: 'users' });
  }
}

const refused = (field: string, message: string): AppError =>
  new AppError('certificate.refused', message, [flaw('certificate.refused', message, field)]);
