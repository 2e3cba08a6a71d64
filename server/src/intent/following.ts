import {
  lostKeysOf,
  type AirFacts,
  type EndingAuthority,
  type GuestFacts,
  type LostKeys,
  type SentConsequences,
} from '@iron-lattice/core/assess';
import { hashOf } from '@iron-lattice/core/document';
import { sitesBeyond, type Intent, type RosterDevice } from '@iron-lattice/core/intent';
import { clock } from '../platform/clock';
import type { Heavy } from '../platform/heavy';
import type { CabledRow } from '../roster/device.model';
import type { EntryDoubts, EntryDoubtsTeller } from '../roster/entry-doubts-offer';
import type { GuestFactsTeller } from '../roster/guest-facts-offer';
import type { KeyLeadTeller } from '../roster/key-leads-offer';
import type { AirTeller } from '../roster/air-offer';
import { rosterOf, type RosterService } from '../roster/roster.service';
import { endingAuthorities } from './authority-ends';
import { Site } from './intent.model';
import { rememberedConsequences } from './remembered';
import type { SecretService } from './secret.service';
import type { IntentService } from './intent.service';
import { sendPart, type SentInput } from './sent-input';

/** What is known of a site beside its intent and its devices. */
interface SiteFacts extends EntryDoubts {
  readonly tags: readonly string[];
  readonly air: AirFacts | undefined;
  readonly common: readonly string[];
  readonly alike: readonly (readonly string[])[];
  readonly ending: readonly EndingAuthority[];
  readonly lostKeys: readonly LostKeys[];
  readonly guests: GuestFacts | null;
  /** Devices of sites that guarantees reach. */
  readonly beyond: ReadonlyMap<string, readonly RosterDevice[]>;
}

/** What follows from an intent at sites, and what it follows from. */
export class Following {
  private readonly remembered = rememberedConsequences();

  constructor(
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
    private readonly heavy: Heavy,
    private readonly air: AirTeller,
    private readonly secrets: SecretService,
    private readonly doubts: EntryDoubtsTeller,
    private readonly leads: KeyLeadTeller,
    private readonly guests: GuestFactsTeller,
  ) {}

  /** Consequences of an intent at one site, remembered by the hash of all that they follow from. */
  async at(intent: Intent, siteId: string, devices: readonly CabledRow[]): Promise<SentConsequences> {
    const [key, input] = await this.basisAt(intent, siteId, devices);
    const known = this.remembered.get(key);
    if (known) return known;
    const consequences = await this.heavy.run('consequences', input);
    this.remembered.set(key, consequences);
    return consequences;
  }

  /** What the consequences of an intent at one site follow from, and its hash. */
  private async basisAt(
    intent: Intent,
    siteId: string,
    devices: readonly CabledRow[],
  ): Promise<[key: string, input: SentInput]> {
    const documents = await this.rosters.documentTexts(devices.map((device) => device.wants));
    const [site, air, secrets] = await Promise.all([Site.findByPk(siteId), this.air([siteId]), this.doubtful(intent)]);
    const beyond = await this.devicesBeyond(intent, [siteId]);
    const facts = { tags: site?.tags ?? [], air: air.get(siteId), beyond, ...secrets };
    return this.basisOf(intent, siteId, devices, documents, facts);
  }

  /** The same for some sites at once, with their devices; those that are not there are left out. */
  async basesAt(
    intent: Intent,
    siteIds: readonly string[],
  ): Promise<{ siteId: string; key: string; input: SentInput; devices: readonly CabledRow[] }[]> {
    const [all, sites] = [
      await this.rosters.cabled(siteIds),
      await Site.findAll({ attributes: ['id', 'tags'], where: { id: [...siteIds] }, raw: true }),
    ];
    const documents = await this.rosters.documentTexts(all.map(({ wants }) => wants));
    const [air, secrets] = [await this.air(siteIds), await this.doubtful(intent)];
    const beyond = await this.devicesBeyond(intent, siteIds);
    const tags = new Map(sites.map((site) => [site.id, site.tags]));
    return siteIds.flatMap((siteId) => {
      if (!intent.sites.has(siteId)) return [];
      const devices = all.filter((device) => device.siteId === siteId);
      const facts = { tags: tags.get(siteId) ?? [], air: air.get(siteId), beyond, ...secrets };
      const [key, input] = this.basisOf(intent, siteId, devices, documents, facts);
      return [{ siteId, key, input, devices }];
    });
  }

  /** Passphrases and secrets of what sites share that guessers try first, secrets that several servers have, and authorities that end soon. */
  private async doubtful({ estate }: Intent): Promise<Omit<SiteFacts, 'tags' | 'air' | 'beyond'>> {
    const servers = (estate.radius ?? []).map(({ secret }) => secret.secret);
    const passphrases = estate.ssids.flatMap((ssid) =>
      [ssid, ...Object.values(ssid.exceptions ?? {})].flatMap(({ passphrase }) => passphrase?.secret ?? []),
    );
    const common = await this.secrets.commonAmong([...passphrases, ...servers]);
    const ending = endingAuthorities(estate.radius ?? [], clock.now());
    const doubts = servers.length > 0 ? await this.doubts() : { directory: null, certificates: [], shortKeys: false };
    const rings = estate.ssids.flatMap(({ id, ring, keysAt }) => (ring && !keysAt ? [id] : []));
    const lostKeys = rings.length > 0 ? lostKeysOf(estate, await this.leads(rings)) : [];
    // Of portals that hold nobody nothing follows.
    const held = new Set(estate.ssids.flatMap(({ portal }) => portal ?? []));
    const all = held.size > 0 ? await this.guests() : null;
    const ours = <T extends { readonly portalId: string }>(list: readonly T[]): T[] =>
      list.filter(({ portalId }) => held.has(portalId));
    const guests = all && { ...all, easy: ours(all.easy), agreed: ours(all.agreed) };
    return { common, alike: await this.secrets.alikeAmong(servers), ending, lostKeys, guests, ...doubts };
  }

  /** Devices of the sites that guarantees of some reach, by site. */
  private async devicesBeyond(
    intent: Intent,
    siteIds: readonly string[],
  ): Promise<ReadonlyMap<string, readonly RosterDevice[]>> {
    const reached = new Set(siteIds.flatMap((id) => sitesBeyond(intent, id)));
    if (reached.size === 0) return new Map();
    const rows = (await this.rosters.cabled([...reached])).map(rosterOf);
    return new Map([...reached].map((id) => [id, rows.filter(({ siteId }) => siteId === id)]));
  }

  private basisOf(
    intent: Intent,
    siteId: string,
    devices: readonly CabledRow[],
    documents: ReadonlyMap<string, string>,
    { tags, air, common, alike, ending, directory, certificates, shortKeys, lostKeys, guests, beyond }: SiteFacts,
  ): [key: string, input: SentInput] {
    const site = intent.sites.get(siteId)!;
    const told: Record<string, string> = {};
    const toldHashes: Record<string, string> = {};
    for (const { id, wants } of devices) {
      if (!wants || !documents.has(wants)) continue;
      told[id] = documents.get(wants)!;
      toldHashes[id] = wants;
    }
    const links = this.rosters.linksAmong(devices);
    const uplinks = this.rosters.uplinksAmong(devices);
    const strangers = this.rosters.strangersAmong(devices);
    const methods = this.rosters.methodsAmong(devices);
    const deviceTags = Object.fromEntries(
      devices.flatMap(({ id, tags: of }) => (of.length > 0 ? [[id, of] as const] : [])),
    );
    const reached = sitesBeyond(intent, siteId).map((id) => {
      const part = intent.sites.get(id)!;
      return { id, site: sendPart(part, this.intents.hash(part)), roster: beyond.get(id) ?? [] };
    });
    const input: SentInput = {
      estate: sendPart(intent.estate, this.intents.hash(intent.estate)),
      site,
      roster: devices.map(rosterOf),
      links,
      told,
      toldHashes,
      uplinks,
      tags,
      ...(Object.keys(deviceTags).length > 0 ? { deviceTags } : {}),
      ...(air ? { air } : {}),
      ...(common.length > 0 ? { common } : {}),
      ...(alike.length > 0 ? { alike } : {}),
      ...(strangers.length > 0 ? { strangers } : {}),
      ...(methods.length > 0 ? { methods } : {}),
      ...(ending.length > 0 ? { ending } : {}),
      ...(directory ? { directory } : {}),
      ...(certificates.length > 0 ? { certificates } : {}),
      ...(shortKeys ? { shortKeys } : {}),
      ...(lostKeys.length > 0 ? { lostKeys } : {}),
      ...(guests ? { guests } : {}),
      ...(reached.length > 0 ? { beyond: Object.fromEntries(reached.map(({ id, ...each }) => [id, each])) } : {}),
    };
    const key = hashOf([
      this.intents.hash(intent.estate),
      this.intents.hash(site),
      devices.map(({ id, name, wants, fixed, expected, model }) => [
        ...[id, name, wants, fixed?.address ?? null],
        expected ? model : null,
      ]),
      links as never,
      uplinks as never,
      tags,
      deviceTags,
      (air ?? null) as never,
      common,
      alike,
      strangers as never,
      methods as never,
      ending as never,
      directory as never,
      certificates as never,
      shortKeys,
      lostKeys as never,
      guests as never,
      reached.map(({ id, site: { hash }, roster }) => [id, hash, roster as never]),
    ]);
    return [key, input];
  }
}
