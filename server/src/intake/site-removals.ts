import type { SiteRemoval, SiteRemovalRequest } from '@iron-lattice/core/intake';
import { wordsOf, type Operation } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import { Draft, OperationRow, Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { changeIntent } from '../platform/database';
import { note } from '../platform/journal';
import { sitesInRollout } from '../roster/in-rollout';
import { Device } from '../roster/device.model';
import type { ClaimService } from './claim.service';

interface Found extends SiteRemoval {
  /** Edits that go, by the id of their draft. */
  readonly going: ReadonlyMap<string, readonly number[]>;
}

/**
 * Taking a site away at which no device is, such as a branch that was made by mistake. Where devices are, or what is live names it,
 * that has to be said and rolled out first: nobody is told anything by this.
 */
export class SiteRemovals {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly drafts: DraftService,
    private readonly claims: ClaimService,
    private readonly bus: Bus,
  ) {}

  async look(siteId: string): Promise<SiteRemoval> {
    const { going: _going, ...removal } = await this.found(siteId);
    return removal;
  }

  /** @throws AppError `site.named` with what to do first; `site.stale` when more or less would go than was seen. */
  async remove(siteId: string, seen: SiteRemovalRequest, personId: string): Promise<void> {
    const { expected, drafts } = await changeIntent(this.database, async (transaction) => {
      const { why, boxes, edits, going } = await this.found(siteId, transaction);
      if (why !== null) throw new AppError('site.named', why);
      if (boxes !== seen.boxes || edits !== seen.edits)
        throw new AppError(
          'site.stale',
          'Something changed meanwhile: more or less would go with it. Look at it again.',
        );
      const site = await Site.findByPk(siteId, { rejectOnEmpty: true, transaction });
      for (const [draftId, numbers] of going)
        await OperationRow.update({ undone: true }, { where: { draftId, number: [...numbers] }, transaction });
      const expected = await Device.findAll({ where: { siteId: null, expectedSiteId: siteId }, transaction });
      await this.claims.unexpectIn(transaction, expected, personId);
      await this.forget(siteId, transaction);
      await site.destroy({ transaction });
      await note(this.database, personId, 'site.remove', { siteId, name: site.name, boxes, edits }, transaction);
      return { expected, drafts: [...going.keys()] };
    });
    if (expected.length > 0) await this.claims.unexpected(expected);
    for (const draftId of drafts) await this.drafts.told(draftId, -1);
    await this.bus.send('live', { type: 'site', siteId });
  }

  private async found(siteId: string, transaction?: Transaction): Promise<Found> {
    const within = transaction ? { transaction } : {};
    const site = await Site.findByPk(siteId, within);
    if (!site) throw unknown('site');
    const [claimed, boxes] = [
      await Device.count({ where: { siteId }, ...within }),
      await Device.count({ where: { siteId: null, expectedSiteId: siteId }, ...within }),
    ];
    const going = new Map<string, number[]>();
    const drafts: string[] = [];
    let beside: { readonly draft: string; readonly words: string } | null = null;
    for (const draft of await Draft.findAll({ where: { state: ['open', 'rolling-out'] }, ...within })) {
      const rows = await this.naming(siteId, draft.id, within);
      const [own, others] = partedBy(rows, siteId);
      const other = others[0];
      if (other) beside ??= { draft: draft.name, words: wordsOf(other.body) };
      if (own.length === 0) continue;
      going.set(
        draft.id,
        own.map(({ number }) => number),
      );
      drafts.push(draft.name);
    }
    const edits = [...going.values()].reduce((sum, { length }) => sum + length, 0);
    const why = await this.whyNot(site, { claimed, beside }, transaction);
    return { why, boxes, edits, drafts, going };
  }

  private async naming(siteId: string, draftId: string, within: object): Promise<OperationRow[]> {
    const rows = await OperationRow.findAll({
      where: { draftId, undone: false, undoes: null },
      order: ['number'],
      ...within,
    });
    const ids = [siteId, ...rows.flatMap(({ body }) => memberAt(body, siteId) ?? [])];
    return rows.filter(({ body }) => {
      const text = JSON.stringify(body);
      return ids.some((id) => text.includes(id));
    });
  }

  private async whyNot(
    { id, name }: Site,
    { claimed, beside }: { readonly claimed: number; readonly beside: { draft: string; words: string } | null },
    transaction?: Transaction,
  ): Promise<string | null> {
    if (claimed > 0)
      return `${claimed === 1 ? '1 device is' : `${claimed} devices are`} at ${name}. Move them to another site, or let them go, first.`;
    const held = (await sitesInRollout(this.database, null, transaction)).get(id);
    if (held !== undefined) return `${held} is being rolled out at ${name}. Wait until that is over.`;
    if (beside)
      return `${beside.draft} names ${name} beside other sites (${beside.words}). Take ${name} out there, or undo that, first.`;
    const user = await this.liveUser(id, transaction);
    return user && `${user} names ${name} where it is live. Take ${name} out there, and roll that out, first.`;
  }

  /** What is live and names a site, in words. */
  private async liveUser(siteId: string, transaction?: Transaction): Promise<string | null> {
    const { intent, pairs } = await this.intents.live(transaction);
    // What sites were told is mostly one and the same.
    for (const shared of new Set([intent.estate, ...[...pairs.values()].map(({ estate }) => estate)]))
      for (const [key, list] of Object.entries(shared)) {
        if (key === 'joins' || !Array.isArray(list)) continue;
        const found = (list as readonly { readonly name?: string }[]).find((each) =>
          JSON.stringify(each).includes(siteId),
        );
        if (found) return key === 'members' ? 'What joins sites' : found.name ? `“${found.name}”` : 'What sites share';
      }
    // Of what is a site’s own only its guarantees name another.
    const other = [...intent.sites.values()].find(
      ({ id, guarantees }) => id !== siteId && guarantees?.some(({ toSite }) => toSite === siteId),
    );
    return other ? `Something at ${other.name}` : null;
  }

  /** What is kept of a site beside its intent, and nothing else knows of. */
  private async forget(siteId: string, transaction: Transaction): Promise<void> {
    const run = (sql: string) =>
      this.database.query(sql, { replacements: { siteId }, type: QueryTypes.RAW, transaction });
    await run('UPDATE sweep SET site_id = NULL WHERE site_id = :siteId');
    await run('UPDATE person SET site_ids = array_remove(site_ids, :siteId::uuid) WHERE :siteId::uuid = ANY(site_ids)');
  }
}

/** Id of the joined site that an edit makes of a site. */
const memberAt = (operation: Operation, siteId: string): string | null =>
  operation.type === 'member.add' && operation.member.siteId === siteId ? operation.member.id : null;

/** Edits that say something of this site and of no other, and those that name it beside others. */
function partedBy(rows: readonly OperationRow[], siteId: string): [own: OperationRow[], others: OperationRow[]] {
  const members = new Set(rows.flatMap(({ body }) => memberAt(body, siteId) ?? []));
  const isOwn = ({ body }: OperationRow): boolean => {
    if ('siteId' in body) return body.siteId === siteId;
    return memberAt(body, siteId) !== null || ('memberId' in body && members.has(body.memberId));
  };
  return [rows.filter(isOwn), rows.filter((row) => !isOwn(row))];
}
