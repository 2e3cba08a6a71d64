import { randomUUID } from 'node:crypto';
import {
  type AcrossInput,
  type Answer,
  type ReachCell,
  type ReachInput,
  type ReachMatrix,
  type Unanswered,
} from '@iron-lattice/core/assess';
import type { SsidLists } from '@iron-lattice/core/document';
import { ietfAclsOf, nftablesOf } from '@iron-lattice/core/formats';
import {
  bookOf,
  checkRuleList,
  resolve,
  ruleTable,
  type OfBook,
  type RuleListPreview,
} from '@iron-lattice/core/intent';
import { enforcedAt, enforcedBy, type Enforced } from '@iron-lattice/core/rollout';
import {
  clockPeriods,
  appliesAtMoment,
  minuteOfWeek,
  momentAt,
  packetRuleOf,
  WEEK,
  type PacketRule,
  type PolicyDocument,
} from '@iron-lattice/core/rules';
import type { NoteReport } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Device } from '../roster/device.model';
import { writeTable } from '../platform/list-table';
import { tunnelsTold, tunnelsUp } from '../roster/tunnels-told';
import { AskingService } from './asking.service';
import { rosterOf, type RosterService } from '../roster/roster.service';
import type { DraftService } from '../intent/draft.service';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';
import type { CellAsked, QuestionAsked } from './rules.heavy';
import { clock } from '../platform/clock';

/** What a file of rules may be: all of a site's policy as `nft` or `acl`, the site's own rules as `csv`. */
export const RULE_FORMATS = ['nft', 'acl', 'csv'] as const;
export type RuleFormat = (typeof RULE_FORMATS)[number];

/** What is compared with instead of what is live: the number of a revision, or a moment in ISO 8601. */
export interface Then {
  readonly then?: string | undefined;
}
/** The same, and the other site that is to be reached; absent: there itself. */
export interface Meant extends Then {
  readonly toSite?: string | undefined;
}

/** Notes of a rule that are told. */
const NOTES_SHOWN = 10;

/** How often a rule decided. */
export interface RuleHits {
  readonly ruleId: string;
  readonly packets: number;
  /** Since when it is counted. */
  readonly since: string;
  readonly lastAt: string | null;
  /** The latest packets that it noted, the newest first. */
  readonly notes: readonly (NoteReport & { readonly device: string })[];
}

/** Who reaches whom, questions about it, hits, and rules in and out as files. */
export class RulesService {
  readonly asking: AskingService;

  constructor(
    private readonly database: Sequelize,
    private readonly drafts: DraftService,
    private readonly rosters: RosterService,
    private readonly intents: IntentService,
    private readonly heavy: Heavy,
  ) {
    this.asking = new AskingService(database, drafts, heavy, (...of) => this.input(...of));
  }

  async reach(draftId: string, siteId: string, minute: number | null, { then, toSite }: Meant): Promise<ReachMatrix> {
    if (toSite !== undefined && toSite !== siteId)
      return this.heavy.run('reach-across', await this.across(draftId, siteId, toSite, then), minute);
    return this.heavy.run('reach', await this.input(draftId, siteId, then), minute);
  }

  async cell(draftId: string, siteId: string, { then, toSite, ...asked }: CellAsked & Meant): Promise<ReachCell> {
    const answer =
      toSite !== undefined && toSite !== siteId
        ? this.heavy.run('reach-cell-across', await this.across(draftId, siteId, toSite, then), asked)
        : this.heavy.run('reach-cell', await this.input(draftId, siteId, then), asked);
    return answer.catch((error: unknown) => {
      throw error instanceof RangeError ? unknown('place') : error;
    });
  }

  /** Two sites, and which tunnels are up: what they were then nobody knows, so that all are taken to be. */
  private async across(draftId: string, siteId: string, toSite: string, then?: string): Promise<AcrossInput> {
    const [here, there] = [await this.input(draftId, siteId, then), await this.input(draftId, toSite, then)];
    const estate = here.liveSite?.estate ?? here.site.estate;
    const up = then === undefined ? tunnelsUp(estate, await tunnelsTold(this.database)) : null;
    const [own, other] = [here, there].map(({ site: { timeZone } }) => minuteOfWeek(clock.now(), timeZone));
    return { here, there, up, ahead: ((other! - own! + 1.5 * WEEK) % WEEK) - WEEK / 2 };
  }

  ask(draftId: string, siteId: string, asked: QuestionAsked & Then): Promise<Answer | Unanswered> {
    return this.asking.ask(draftId, siteId, asked);
  }

  async hits(siteId: string): Promise<RuleHits[]> {
    const rows = await this.database.query<{ rule_id: string; packets: string; since: Date; last_at: Date | null }>(
      'SELECT rule_id, packets, since, last_at FROM rule_hit WHERE site_id = :siteId',
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    const noted = await this.database.query<{ name: string; note: NoteReport }>(
      `SELECT d.name, note FROM device d, jsonb_array_elements(coalesce(d.report->'notes', '[]'::jsonb)) note
       WHERE d.site_id = :siteId ORDER BY note->>'at' DESC`,
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    return rows.map(({ rule_id, packets, since, last_at }) => ({
      ruleId: rule_id,
      packets: Number(packets),
      since: since.toISOString(),
      lastAt: last_at?.toISOString() ?? null,
      notes: noted
        .filter(({ note }) => note.rule === rule_id)
        .slice(0, NOTES_SHOWN)
        .map(({ name, note }) => ({ ...note, device: name })),
    }));
  }

  /** The same over all sites, of the rules that they share. */
  async sharedHits(): Promise<RuleHits[]> {
    const { intent } = await this.intents.live();
    const rules = [...(intent.estate.rulesBefore ?? []), ...(intent.estate.rulesAfter ?? [])].map(({ id }) => id);
    const rows = await this.database.query<{ rule_id: string; packets: string; since: Date; last_at: Date | null }>(
      `SELECT rule_id, least(sum(packets), 9007199254740991) AS packets, min(since) AS since, max(last_at) AS last_at
       FROM rule_hit WHERE rule_id IN (SELECT jsonb_array_elements_text(:rules::jsonb)) GROUP BY rule_id`,
      { replacements: { rules: JSON.stringify(rules) }, type: QueryTypes.SELECT },
    );
    return rows.map(({ rule_id, packets, since, last_at }) => ({
      ruleId: rule_id,
      packets: Number(packets),
      since: since.toISOString(),
      lastAt: last_at?.toISOString() ?? null,
      notes: [],
    }));
  }

  /** A site's policy or rules as a file. */
  async write(
    draftId: string,
    siteId: string,
    format: RuleFormat,
  ): Promise<{ name: string; type: string; text: string }> {
    const { site, roster } = await this.input(draftId, siteId);
    if (format === 'csv') {
      const text = writeTable(ruleTable(site.rules ?? [], site.estate.hours));
      return { name: `${site.code}-rules.csv`, type: 'text/csv', text };
    }
    const { policy, switches, ssids } = enforcedAt(site, roster);
    const now = momentAt(clock.now(), site.timeZone);
    const inForce = ({ rules }: PolicyDocument): PacketRule[] =>
      rules.filter((rule) => appliesAtMoment(rule, now)).map(packetRuleOf);
    const { otherwise } = policy;
    if (format === 'nft') {
      const rules = policy.rules.map((rule) => ({ ...packetRuleOf(rule), times: rule.times, closed: rule.closed }));
      const { timeZone } = site;
      const week = { timeZone, periods: clockPeriods(timeZone, clock.now()) };
      const text = nftablesOf({ rules, otherwise, stateful: true, own: true, clock: week });
      return { name: `${site.code}.nft`, type: 'text/plain', text };
    }
    const listed = (name: string, document: PolicyDocument) => ({
      name,
      rules: inForce(document),
      otherwise: document.otherwise,
    });
    const sent = site.ssids.flatMap(({ id, name }) => {
      const { lists, classLists = {} } = ssids[id] ?? {};
      const both = (whose: string, { from, to }: SsidLists) => [
        listed(`from ${whose}`, from),
        listed(`to ${whose}`, to),
      ];
      const classes = site.accessClasses.flatMap((each) =>
        classLists[each.id] ? both(`${each.name} on ${name}`, classLists[each.id]!) : [],
      );
      return [...(lists ? both(name, lists) : []), ...classes];
    });
    const lists = [listed('', policy), ...(switches ? [listed('switches', switches)] : []), ...sent];
    const text = `${JSON.stringify(ietfAclsOf(lists), null, 2)}\n`;
    return { name: `${site.code}-acl.json`, type: 'application/json', text };
  }

  /** Looks at a list of rules; nothing is changed. */
  async preview(draftId: string, of: OfBook, siteId: string, bytes: Buffer): Promise<RuleListPreview> {
    const [read, { intent }, { site, roster }] = await Promise.all([
      this.heavy.read('read-table', bytes),
      this.drafts.open(draftId),
      this.input(draftId, siteId),
    ]);
    if (!read.ok) throw new AppError('list.refused', read.reason);
    const known = {
      segment: site.segments.map(({ name }) => name),
      ssid: site.ssids.map(({ name }) => name),
      class: site.accessClasses.map(({ name }) => name),
      set: [...(intent.estate.sets ?? []), ...(site.sets ?? [])].map(({ name }) => name),
      device: roster.map(({ name }) => name),
    };
    const behind = bookOf(intent, of)?.at(-1)?.id ?? null;
    return checkRuleList(read.table, intent, of, behind, known, randomUUID);
  }

  private async input(draftId: string, siteId: string, then?: string): Promise<ReachInput> {
    const [{ intent, live }, devices] = await Promise.all([this.drafts.open(draftId), this.rosters.devices(siteId)]);
    const site = intent.sites.get(siteId);
    const there = live.pairs.get(siteId);
    if (!site || !there) throw unknown('site');
    const uplinks = this.rosters.uplinksAmong(devices);
    if (then !== undefined) {
      // As devices of today were told then: those that came since would have been told so too.
      const past = await this.intents.pairThen(siteId, then);
      const [was, roster] = [resolve(past.estate, past.site), devices.map(rosterOf)];
      return { site: resolve(intent.estate, site), roster, live: enforcedAt(was, roster), liveSite: was, uplinks };
    }
    return {
      site: resolve(intent.estate, site),
      roster: devices.map(rosterOf),
      live: await this.live(devices),
      liveSite: resolve(there.estate, there.site),
      uplinks,
    };
  }

  /** What a site's devices let pass by the documents they acknowledged. */
  private async live(devices: readonly Device[]): Promise<Enforced | null> {
    const documents = await this.rosters.documents(devices.map((device) => device.runs));
    // Each device's own: two that run the same are two, and one that runs none of ours passes whatever comes.
    const run = devices.flatMap(({ runs }) => (runs !== null ? (documents.get(runs) ?? []) : []));
    const switches = devices.filter(({ hardware }) => hardware?.kind === 'switch').length;
    return enforcedBy(run, switches - run.filter(({ kind }) => kind === 'switch').length);
  }
}
