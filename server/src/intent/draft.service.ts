import { randomUUID } from 'node:crypto';
import type { DraftChange, DraftView, EditRequest, SiteDraft } from '@iron-lattice/core/assess';
import type { Flaw } from '@iron-lattice/core/base';
import { hashOf } from '@iron-lattice/core/document';
import {
  apply,
  joinedSeenAt,
  nounOf,
  partKeyOf,
  remade,
  type Numbered,
  type Intent,
  type Operation,
  type SecretUse,
  wordsOf,
} from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { rolloutsUnderWay, sitesInRollout } from '../roster/in-rollout';
import { rosterOf, type RosterService } from '../roster/roster.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { changeIntent } from '../platform/database';
import { Draft, OperationRow, Site } from './intent.model';
import { inForce, lastEdit, redoable, togetherWith } from './draft-history';
import { contestedSites, sitesBehind } from './draft-sites';
import type { Following } from './following';
import type { IntentService } from './intent.service';
import { lookup } from './lookup';
import type { OpenedDraft } from './opened-draft';
import { Replays } from './replays';
import type { SecretService } from './secret.service';

const NOT_OVER = { where: { state: ['open', 'rolling-out'] }, order: [['createdAt', 'DESC']] as [string, string][] };

/** How many drafts that were opened are kept. */
const MOST_KEPT = 8;
/** How long a draft that was opened is good for what may be a moment old, in milliseconds. */
const RECENT_MS = 10_000;

/** Drafts: ordered edits on top of what is live. Everything that changes intent goes through `edit`. */
export class DraftService {
  /** Drafts opened a moment ago, by id, the latest last. */
  private readonly kept = new Map<string, { key: string; at: number; opened: Promise<OpenedDraft> }>();
  private readonly replays = new Replays();

  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
    private readonly secrets: SecretService,
    private readonly following: Following,
    private readonly bus: Bus,
  ) {}

  /** The draft people work in: the newest that is not over. There always is one: whoever ends one sees to it. */
  async current(): Promise<OpenedDraft> {
    const draft = await Draft.findOne({ ...NOT_OVER, attributes: ['id'] });
    if (!draft) throw unknown('draft');
    return this.open(draft.id);
  }

  /**
   * A draft, or the one people work in, as it was a moment ago, where nothing was edited, rolled out, claimed or let go since: many
   * ask, a part of the sites each.
   */
  async recent(id?: string): Promise<OpenedDraft> {
    const [draft, { liveRevision }, sites, moved, underWay, devices] = await Promise.all([
      id === undefined ? Draft.findOne(NOT_OVER) : Draft.findByPk(id),
      this.intents.estate(),
      Site.count(),
      Site.sum('liveRevision'), // grows with each wave
      rolloutsUnderWay(this.database),
      this.rosters.stamp(),
    ]);
    if (!draft) throw unknown('draft');
    const undone = await OperationRow.count({ where: { draftId: draft.id, undone: true } });
    const { head, state, name, description } = draft;
    const said = [head, undone, state, name, description];
    const key = JSON.stringify([...said, liveRevision, sites, moved, underWay, devices]);
    const kept = this.kept.get(draft.id);
    if (kept?.key === key && Date.now() - kept.at < RECENT_MS) return kept.opened;
    const opened = this.open(draft.id);
    this.kept.delete(draft.id);
    if (this.kept.size >= MOST_KEPT) this.kept.delete(this.kept.keys().next().value!);
    this.kept.set(draft.id, { key, at: Date.now(), opened });
    opened.catch(() => this.kept.delete(draft.id)); // whoever asks next tries anew
    return opened;
  }

  /** Sees to it that there is a draft to work in. */
  async ensure(personId: string, transaction: Transaction): Promise<void> {
    if (!(await Draft.findOne({ ...NOT_OVER, transaction }))) await this.add(personId, transaction);
  }

  /** The same once, before anything is served: data of earlier versions may lack one. */
  async prepare(): Promise<void> {
    await changeIntent(this.database, async (transaction) => {
      const [first] = await this.database.query<{ id: string }>(
        `SELECT id FROM person WHERE role = 'administrator' AND EXISTS (SELECT FROM estate) ORDER BY email LIMIT 1`,
        { transaction, type: QueryTypes.SELECT },
      );
      if (first) await this.ensure(first.id, transaction);
    });
  }

  /** Starts another draft beside those there are. */
  async start(personId: string): Promise<DraftView> {
    const draft = await changeIntent(this.database, async (transaction) => {
      return this.add(personId, transaction);
    });
    await this.told(draft.id, -1);
    return this.view(await this.open(draft.id));
  }

  /** Drafts that are not over, newest first. */
  async list(): Promise<DraftView[]> {
    const drafts = await Draft.findAll(NOT_OVER);
    const views: DraftView[] = [];
    for (const { id } of drafts) views.push(await this.get(id));
    return views;
  }

  async get(id: string): Promise<DraftView> {
    return this.view(await this.open(id));
  }

  /** Says what a draft is called and for. @throws AppError `draft.moved` when somebody else said so meanwhile. */
  async describe(id: string, { from, to }: DraftChange): Promise<DraftView> {
    await changeIntent(this.database, async (transaction) => {
      const draft = await this.editable(id, transaction);
      if (draft.name !== from.name || draft.description !== from.description)
        throw new AppError(
          'draft.moved',
          `Somebody changed it meanwhile: it is called “${draft.name}” now. Save again to put yours in its place.`,
        );
      await draft.update({ name: to.name.trim(), description: to.description.trim() }, { transaction });
    });
    await this.told(id, -1);
    return this.get(id);
  }

  /** @throws AppError `draft.not-open`. */
  async discard(id: string, personId: string): Promise<void> {
    await changeIntent(this.database, async (transaction) => {
      const draft = await this.editable(id, transaction);
      await draft.update({ state: 'discarded' }, { transaction });
      await this.ensure(personId, transaction);
    });
    await this.told(id, 0);
  }

  /**
   * Appends edits, all or none.
   * @throws AppError `draft.refused` with the flaws; `draft.moved` instead when others edited since `head`.
   */
  async edit(id: string, request: EditRequest, personId: string): Promise<OpenedDraft> {
    const opened = await changeIntent(this.database, (transaction) => this.editIn(transaction, id, request, personId));
    await this.told(id, opened.draft.head);
    return opened;
  }

  /** The same as a part of something larger, which tells people once it is through. */
  async editIn(transaction: Transaction, id: string, request: EditRequest, personId: string): Promise<OpenedDraft> {
    const draft = await this.editable(id, transaction);
    const opened = await this.open(id, transaction);
    const roster = lookup(opened.roster);
    let { intent } = opened;
    let { head } = draft;
    const rows: OperationRow[] = [];
    const together = request.operations.length > 1 ? head + 1 : null;
    checkSecrets(request);
    await this.secrets.add(request.secrets ?? {}, personId, transaction);
    await this.secrets.require(
      request.operations.flatMap(secretsIn).map(({ id }) => id),
      transaction,
    );
    for (const operation of request.operations) {
      const result = apply(intent, operation, roster);
      if (!result.ok) throw refusal(result.flaws, request.head !== draft.head);
      const madeOn = this.partHash(intent, partKeyOf(operation));
      rows.push(
        await OperationRow.create(
          { draftId: id, number: ++head, body: operation, inverse: result.inverse, madeOn, together, personId },
          { transaction },
        ),
      );
      intent = result.intent;
    }
    await draft.update({ head }, { transaction });
    return { ...opened, draft, rows: [...opened.rows, ...rows], intent };
  }

  /** Leaves out an edit for good that no longer fits. */
  async dropMisfit(id: string, number: number): Promise<DraftView> {
    await changeIntent(this.database, async (transaction) => {
      await this.editable(id, transaction);
      const { misfits } = await this.open(id, transaction);
      if (!misfits.some((misfit) => misfit.number === number)) throw unknown('edit that no longer fits');
      await OperationRow.update({ undone: true }, { where: { draftId: id, number }, transaction });
    });
    await this.told(id, -1);
    return this.get(id);
  }

  /**
   * Makes an edit that no longer fits again, on what is there now.
   * @throws AppError `draft.refused` when it cannot be made any more.
   */
  async remakeMisfit(id: string, number: number, personId: string): Promise<DraftView> {
    const head = await changeIntent(this.database, async (transaction) => {
      const draft = await this.editable(id, transaction);
      const { misfits, intent, roster } = await this.open(id, transaction);
      const misfit = misfits.find((each) => each.number === number);
      if (!misfit) throw unknown('edit that no longer fits');
      const operation = remade(misfit.operation, intent);
      if (!operation) throw refusal(misfit.flaws, false);
      const result = apply(intent, operation, lookup(roster));
      if (!result.ok) throw refusal(result.flaws, false);
      const madeOn = this.partHash(intent, partKeyOf(operation));
      const next = { draftId: id, number: draft.head + 1, body: operation, inverse: result.inverse, madeOn, personId };
      await OperationRow.update({ undone: true }, { where: { draftId: id, number }, transaction });
      await OperationRow.create(next, { transaction });
      await draft.update({ head: next.number }, { transaction });
      return next.number;
    });
    await this.told(id, head);
    return this.get(id);
  }

  /** A draft's edits in force on top of what is live now. */
  async open(id: string, transaction?: Transaction): Promise<OpenedDraft> {
    const within = transaction ? { transaction } : {};
    // One after the other: a transaction is one connection.
    const { draft, rows } = await this.readTogether(id, within);
    const [person] = await this.database.query<{ name: string }>('SELECT name FROM person WHERE id = :id', {
      replacements: { id: draft.personId },
      type: QueryTypes.SELECT,
      ...within,
    });
    const live = await this.intents.live(transaction);
    const devices = await this.rosters.roster(transaction);
    // What is said of a device may be said before it is there.
    const roster = [...devices, ...(await this.rosters.expected(transaction))].map(rosterOf);
    const held = await sitesInRollout(this.database, id, transaction);
    // Live at some sites, it is part of the newest.
    const mine = draft.onRevision === null ? inForce(rows) : [];
    const operations = mine.map((row): Numbered => ({ ...row.body, number: row.number }));
    const { intent, misfits } = this.replays.of(id, live.intent, operations, roster, transaction === undefined);
    return {
      draft,
      by: person?.name ?? '',
      rows,
      intent,
      live,
      held,
      liveRevision: live.revision,
      roster,
      devices,
      misfits: misfits.map(({ operation: { number, ...operation }, flaws }) => {
        const again = remade(operation, intent);
        const fits = again !== null && apply(intent, again, lookup(roster)).ok;
        return { number, operation, words: wordsOf(operation), again: fits, flaws };
      }),
    };
  }

  /** A draft with its edits, of one moment: outside of a transaction an edit may come in between, and is then read too. */
  private async readTogether(
    id: string,
    within: { transaction?: Transaction },
  ): Promise<{ draft: Draft; rows: OperationRow[] }> {
    let draft = await Draft.findByPk(id, within);
    for (;;) {
      if (!draft) throw unknown('draft');
      const rows = await OperationRow.findAll({ where: { draftId: id }, order: ['number'], ...within });
      if (within.transaction) return { draft, rows };
      const now: Draft | null = await Draft.findByPk(id);
      if (now?.head === draft.head) return { draft: now, rows };
      draft = now;
    }
  }

  /** One site as a draft has it, with its consequences. */
  async site(opened: OpenedDraft, siteId: string): Promise<SiteDraft> {
    const site = opened.intent.sites.get(siteId);
    if (!site) throw unknown('site');
    const devices = await this.rosters.cabled([siteId]);
    const consequences = await this.following.at(opened.intent, siteId, devices);
    return {
      draft: this.view(opened),
      estate: joinedSeenAt(opened.intent.estate, siteId),
      site,
      roster: devices.map(rosterOf),
      links: this.rosters.linksAmong(devices),
      uplinks: this.rosters.uplinksAmong(devices),
      livePools: opened.live.pairs.get(siteId)?.site.pools ?? [],
      told: {
        revision: opened.live.pairs.get(siteId)?.revision ?? 0,
        behind: opened.live.behind.includes(siteId),
        by: contestedSites(opened).includes(siteId) ? null : (opened.held.get(siteId) ?? null),
      },
      consequences,
    };
  }

  view({ draft, by, rows, misfits, live, liveRevision, held }: OpenedDraft): DraftView {
    const forced = inForce(rows);
    const last = lastEdit(rows);
    return {
      id: draft.id,
      name: draft.name,
      description: draft.description,
      by,
      at: draft.createdAt.toISOString(),
      state: draft.state,
      head: draft.head,
      baseRevision: liveRevision,
      edits: forced.length,
      behind: sitesBehind({ live, held }).length,
      canUndo: last !== undefined || liveRevision > 0,
      undoes: last ? togetherWith(forced, last).length : 0,
      undoesLive: last === undefined && liveRevision > 0,
      canRedo: redoable(rows) !== undefined,
      misfits,
    };
  }

  /** @throws AppError when the draft is unknown or over. */
  async editable(id: string, transaction: Transaction): Promise<Draft> {
    const draft = await Draft.findByPk(id, { transaction });
    if (!draft) throw unknown('draft');
    if (draft.state !== 'open') this.refuseOver(draft);
    return draft;
  }

  /** @throws AppError `draft.not-open`, for a draft that cannot be edited. */
  refuseOver({ state }: Draft): never {
    const text = 'This draft is being rolled out. Edit it when that is over.';
    throw new AppError('draft.not-open', state === 'rolling-out' ? text : `This draft is ${state}. Start a new one.`);
  }

  /** Tells whether two looks at a draft saw the same: its edits, what is live, and the devices. */
  basis({ intent, live, liveRevision, held, devices, misfits }: OpenedDraft): string {
    return hashOf([
      liveRevision,
      [...held.keys()].sort(),
      [...live.pairs].map(([id, { estate, site }]) => [id, this.intents.hash(estate), this.intents.hash(site)]),
      this.intents.hash(intent.estate),
      [...intent.sites].map(([id, site]) => [id, this.intents.hash(site)]),
      misfits.length,
      devices.map(({ id, siteId, name, model, wants, fixed, lightOff }) => [
        id,
        siteId,
        name,
        model,
        wants,
        fixed?.address ?? null,
        lightOff,
      ]),
    ]);
  }

  private async add(personId: string, transaction: Transaction): Promise<Draft> {
    const count = await Draft.count({ transaction });
    return Draft.create({ id: randomUUID(), name: `Draft ${count + 1}`, state: 'open', personId }, { transaction });
  }

  /** Hash of one part of an intent. */
  partHash(intent: Intent, key: string): string {
    return this.intents.hash(key === 'estate' ? intent.estate : intent.sites.get(key)!);
  }

  /** Tells people that a draft moved. */
  told(draftId: string, head: number): Promise<void> {
    return this.bus.send('live', { type: 'draft', draftId, head });
  }
}

function refusal(flaws: readonly Flaw[], moved: boolean): AppError {
  const [first] = flaws;
  if (moved) return new AppError('draft.moved', `The draft changed since you looked: ${first!.message}`, flaws);
  return new AppError('draft.refused', first!.message, flaws);
}

/** Secrets that an edit refers to. */
const secretsIn = (operation: Operation): readonly SecretUse[] => nounOf(operation).secrets?.(operation) ?? [];

/** Every secret that was sent must be one that the edits refer to, and fit there. */
function checkSecrets({ operations, secrets = {} }: EditRequest): void {
  const uses = operations.flatMap(secretsIn).filter(({ id }) => Object.hasOwn(secrets, id));
  const flaws = uses.flatMap(({ id, check }) => check(secrets[id]!));
  if (flaws.length > 0) throw refusal(flaws, false);
  const used = new Set(uses.map(({ id }) => id));
  if (Object.keys(secrets).some((id) => !used.has(id)))
    throw new AppError('draft.refused', 'A secret was sent that none of the edits uses.');
}
