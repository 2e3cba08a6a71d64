import {
  type BranchElsewhere,
  type BranchesAsked,
  type BranchesMade,
  type BranchesSeen,
  type BranchesWanted,
  type MadeBranches,
} from '@iron-lattice/core/intake';
import { hashOf } from '@iron-lattice/core/document';
import { sheetOf } from '@iron-lattice/core/hardware';
import type { Intent, Part, SitePart } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { DraftReview } from '../../intent/draft-review';
import type { DraftService } from '../../intent/draft.service';
import type { IntentService } from '../../intent/intent.service';
import type { OpenedDraft } from '../../intent/opened-draft';
import { sendPart, type SentPart } from '../../intent/sent-input';
import type { SecretService } from '../../intent/secret.service';
import { AppError } from '../../platform/app-error';
import type { Bus } from '../../platform/bus';
import { changeIntent } from '../../platform/database';
import type { Heavy } from '../../platform/heavy';
import { note } from '../../platform/journal';
import type { ComposeBranches } from './composed';
import type { ClaimService } from '../claim.service';
import type { SheetService } from '../sheet.service';
import type { SiteService } from '../site.service';

/** What branches are made with. */
export interface BranchesParts {
  readonly database: Sequelize;
  readonly intents: IntentService;
  readonly drafts: DraftService;
  readonly reviews: DraftReview;
  readonly secrets: SecretService;
  readonly sites: SiteService;
  readonly claims: ClaimService;
  readonly sheets: SheetService;
  readonly heavy: Heavy;
  readonly bus: Bus;
}

/** Branches in one go: looked at with all that follows from them, then made, all or none. */
export class BranchesService {
  constructor(private readonly parts: BranchesParts) {}

  /** The rows of a file. @throws AppError `list.refused`. */
  async read(bytes: Uint8Array): Promise<{ readonly table: readonly (readonly string[])[] }> {
    const read = await this.parts.heavy.read('read-table', bytes);
    if (!read.ok) throw new AppError('list.refused', read.reason);
    return { table: read.table };
  }

  /** What branches would be, row by row, and what follows; nothing is changed. */
  async look(draftId: string, asked: BranchesAsked): Promise<BranchesSeen> {
    const opened = await this.parts.drafts.recent(draftId);
    const { composed, findings, begun, touched, calling } = await this.composed(opened, asked, true);
    const { rows, flaws, shared, made } = composed;
    return {
      rows,
      flaws,
      shared,
      count: {
        ...{ sites: made.sites.length, devices: made.expected.length, edits: made.operations.length },
        calling: made.expected.filter(({ id }) => calling.has(id)).length,
      },
      findings,
      elsewhere: [...begun, ...(await this.elsewhere(opened, composed, touched))],
      basis: basisOf(composed),
    };
  }

  /**
   * Makes branches as they were seen: sites are there and boxes expected at once, the rest is put to the draft. All or none.
   * @throws AppError `list.refused`; `branches.moved` when it would not be what was seen.
   */
  async make(
    draftId: string,
    { basis, leaveOutBad, ...asked }: BranchesWanted,
    personId: string,
  ): Promise<BranchesMade> {
    const opened = await this.parts.drafts.open(draftId);
    const { composed, keys } = await this.composed(opened, asked, false);
    const bad = composed.rows.filter(({ good }) => good === null);
    const first = composed.flaws[0] ?? bad[0]?.flaws[0];
    if (composed.made.sites.length === 0)
      throw new AppError('list.refused', `Nothing was made. ${first?.message ?? 'No row is good.'}`);
    if (bad.length > 0 && !leaveOutBad)
      throw new AppError(
        'list.refused',
        `Nothing was made: ${bad.length} of ${composed.rows.length} rows are not good. ${first!.message}`,
      );
    if (basisOf(composed) !== basis) throw moved();
    const { sites, expected, operations, secrets } = composed.made;
    const head = await changeIntent(this.parts.database, async (transaction) => {
      const now = await this.parts.drafts.open(draftId, transaction);
      if (this.parts.drafts.basis(now) !== this.parts.drafts.basis(opened)) throw moved();
      await this.checkBoxes(expected, transaction);
      for (const { part, wish, coordinates } of sites)
        await this.parts.sites.store(now.live.intent.estate, part, { ...wish, coordinates }, personId, transaction);
      await this.parts.claims.announce(expected, personId, null, transaction);
      const used = operations.flatMap((each) => (each.type === 'member.add' ? [each.member.key.secret] : []));
      const own = Object.fromEntries(used.map((secret) => [secret, keys[secret]!]));
      await this.parts.secrets.add(own, personId, transaction, { hidden: true });
      await note(
        this.parts.database,
        personId,
        'branches.make',
        { sites: sites.length, devices: expected.length },
        transaction,
      );
      if (operations.length === 0) return null;
      const request = { head: now.draft.head, operations, secrets };
      return (await this.parts.drafts.editIn(transaction, draftId, request, personId)).draft.head;
    });
    for (const { part } of sites) await this.parts.bus.send('live', { type: 'site', siteId: part.id });
    if (head !== null) await this.parts.drafts.told(draftId, head);
    return { sites: sites.length, devices: expected.length, edits: operations.length };
  }

  private async composed(opened: OpenedDraft, { table, common }: BranchesAsked, findings: boolean) {
    const [planned, sheets, boxes, estate] = [
      await this.parts.sites.withDrafts(opened.live.intent),
      await this.parts.sheets.list(),
      await this.boxes(),
      await this.parts.intents.estate(),
    ];
    const names = new Map([...opened.live.intent.sites].map(([id, { name }]) => [id, name]));
    const intent = beside(opened.intent, planned);
    const send = (part: Part): SentPart => sendPart(part, this.parts.intents.hash(part));
    const input: ComposeBranches = {
      asked: { table, common },
      estate: send(intent.estate),
      sites: [...intent.sites.values()].map(send),
      roster: opened.roster,
      models: sheets.flatMap(({ sheet }) => (sheetOf(sheet.model) ? [sheet.model] : [])),
      serials: boxes.flatMap(({ serial, at, name }) =>
        at === null ? [] : [[serial, `${name ?? 'expected'} at ${names.get(at) ?? 'a site'}`] as const],
      ),
      names: boxes.flatMap(({ name, serial }) => (name === null ? [] : [[name, serial] as const])),
      heard: boxes.flatMap(({ serial, id, model, at }) => (at === null ? [[serial, { id, model }] as const] : [])),
      calling: boxes.flatMap(({ id, at, online }) => (at === null && online ? [id] : [])),
      country: estate.country,
      live: send(opened.live.intent.estate),
      findings,
    };
    const calling = new Set(input.calling);
    return { ...(await this.parts.heavy.run('branches', input)), calling };
  }

  private boxes() {
    return this.parts.database.query<{
      id: string;
      serial: string;
      model: string;
      name: string | null;
      at: string | null;
      online: boolean;
    }>(
      'SELECT id, serial, model, online, coalesce(name, expected_name) AS name, coalesce(site_id, expected_site_id) AS at FROM device',
      { type: QueryTypes.SELECT },
    );
  }

  /** Nobody else took one of the boxes meanwhile. */
  private async checkBoxes(expected: MadeBranches['expected'], transaction: Transaction): Promise<void> {
    const rows = await this.parts.database.query<{ id: string; serial: string; at: string | null }>(
      `SELECT id, serial, coalesce(site_id, expected_site_id) AS at FROM device
       WHERE serial = ANY(ARRAY(SELECT jsonb_array_elements_text(:serials::jsonb))) FOR UPDATE`,
      {
        replacements: { serials: JSON.stringify(expected.map(({ serial }) => serial)) },
        type: QueryTypes.SELECT,
        transaction,
      },
    );
    const ids = new Map(expected.map(({ serial, id }) => [serial, id]));
    if (rows.some(({ id, serial, at }) => at !== null || ids.get(serial) !== id)) throw moved();
  }

  /** Other sites at which devices would be told something because of them. */
  private async elsewhere(
    { intent }: OpenedDraft,
    { after, made }: { readonly after: Pick<Intent, 'estate'>; readonly made: MadeBranches },
    touched: readonly string[],
  ): Promise<readonly BranchElsewhere[]> {
    const sites = new Map(intent.sites);
    for (const { part } of made.sites) sites.set(part.id, part);
    const next: Intent = { estate: after.estate, sites };
    const seen = await this.parts.reviews.seen(next, touched, async (site) => site);
    return seen.map(({ siteId, review, input }) => ({
      ...{ siteId, name: input.site.name, devices: review.changes.length },
    }));
  }
}

const moved = (): AppError =>
  new AppError('branches.moved', 'Something changed meanwhile: this is not what you looked at. Look at it again.');

/** Whether two compositions are the same to whoever looks at them: ids and keys are drawn anew each time. */
const basisOf = ({ rows, shared }: Pick<BranchesSeen, 'rows' | 'shared'>): string =>
  hashOf([rows.map(({ values, good, flaws }) => [values, good?.parts ?? null, flaws]), shared] as never);

/** A draft’s intent with what other drafts plan, as a place that nothing may be put at. */
function beside(intent: Intent, planned: Intent): Intent {
  const others = [...planned.sites].flatMap(([id, { segments }]) => {
    const mine = new Set(intent.sites.get(id)?.segments.map((segment) => segment.subnet));
    return segments.filter(({ subnet }) => !mine.has(subnet));
  });
  const [some] = planned.sites.values();
  if (others.length === 0 || !some) return intent;
  const { kind, country, timeZone, managementId } = some;
  const place: SitePart = {
    ...{ kind, country, timeZone, managementId, ports: {}, segments: others },
    ...{ id: PLANNED, name: 'what another draft plans', code: PLANNED },
  };
  return { ...intent, sites: new Map(intent.sites).set(place.id, place) };
}
/** No site has such a code. */
const PLANNED = '—';
