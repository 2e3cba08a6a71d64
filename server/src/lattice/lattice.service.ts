import { randomUUID } from 'node:crypto';
import { formatPrefix, nextFreePrefix, parsePrefix } from '@iron-lattice/core/address';
import {
  checkSegmentList,
  planEntries,
  segmentTable,
  segmentsAsIetf,
  segmentsAsKea,
  siteClients,
  stampRecipe,
  type AddressPlan,
  type RecipeStamp,
  type RingSegments,
  type RingSegmentsAsked,
  type SegmentListPreview,
  type SiteClient,
} from '@iron-lattice/core/lattice';
import type { Device } from '../roster/device.model';
import { writeTable } from '../platform/list-table';
import type { ClientNamer } from '../roster/client-names-offer';
import type { RosterService } from '../roster/roster.service';
import type { DraftService } from '../intent/draft.service';
import { AppError, unknown } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';

/** What a file of segments may be. */
export const SEGMENT_FORMATS = ['csv', 'ietf', 'kea'] as const;
export type SegmentFormat = (typeof SEGMENT_FORMATS)[number];

/** What is asked of segments that keys lead to. */
export interface RingSegmentsBody extends Omit<RingSegmentsAsked, 'recipe'> {
  readonly recipeId: string | null;
}

/** The address plan, who has which address, and segments in and out as files. */
export class LatticeService {
  constructor(
    private readonly drafts: DraftService,
    private readonly rosters: RosterService,
    private readonly heavy: Heavy,
    private readonly names: ClientNamer,
  ) {}

  /** Every prefix of the estate as a draft has it, with how full it is. */
  async plan(draftId: string): Promise<AddressPlan> {
    const { intent } = await this.drafts.open(draftId);
    const devices = await this.rosters.addresses();
    const inUse = new Map<string, string[]>();
    for (const { siteId, address, leases } of devices) {
      const list = inUse.get(siteId) ?? [];
      inUse.set(siteId, list);
      if (address !== null) list.push(address);
      for (const lease of leases) list.push(lease);
    }
    const uplinks = devices.flatMap(({ siteId, name, uplinks: given }) =>
      given.map(({ port, address }) => ({ siteId, device: name, port, address })),
    );
    return { entries: planEntries(intent, inUse), uplinks };
  }

  /** The segments that keys of a ring would lead to at a site. */
  async ringSegments(draftId: string, siteId: string, { recipeId, ...asked }: RingSegmentsBody): Promise<RingSegments> {
    const { intent } = await this.drafts.open(draftId);
    const recipe = recipeId === null ? null : (intent.estate.recipes ?? []).find(({ id }) => id === recipeId);
    if (recipe === undefined) throw unknown('recipe');
    // Of other sites their segments alone are looked at.
    const sites = new Map([...intent.sites].map(([id, site]) => [id, id === siteId ? site : { ...site, ports: {} }]));
    const found = await this.heavy.run('ring-segments', { ...intent, sites }, siteId, { ...asked, recipe });
    if (!found) throw unknown('site or SSID');
    return found;
  }

  /** The next free prefix of a length inside another. @throws AppError `draft.refused` when there is none. */
  async nextFree(draftId: string, parentText: string, length: number): Promise<{ prefix: string }> {
    const { intent } = await this.drafts.open(draftId);
    const parent = parsePrefix(parentText);
    if (!parent) throw new AppError('draft.refused', `“${parentText}” is not a prefix, such as 10.0.0.0/8.`);
    const used = [...intent.sites.values()].flatMap((site) =>
      site.segments.flatMap(({ subnet, v6 }) => [subnet, ...(v6 ? [v6.prefix] : [])].map((text) => parsePrefix(text)!)),
    );
    const free = nextFreePrefix(parent, used, length);
    if (!free) throw new AppError('draft.refused', `No /${length} is free in ${formatPrefix(parent)}.`);
    return { prefix: formatPrefix(free) };
  }

  /** Who has which address at a site, where attached, since when. */
  async clients(siteId: string): Promise<SiteClient[]> {
    const devices = await this.rosters.devices(siteId);
    const clients = siteClients(devices.map(reportedBy));
    const names = await this.names(clients.map(({ mac }) => mac));
    return clients.map((client) => ({ ...client, name: names.get(client.mac) ?? client.name }));
  }

  /** A site's segments as a file. */
  async write(
    draftId: string,
    siteId: string,
    format: SegmentFormat,
  ): Promise<{ name: string; type: string; text: string }> {
    const { intent, roster } = await this.drafts.open(draftId);
    const site = intent.sites.get(siteId);
    if (!site) throw unknown('site');
    if (format === 'ietf')
      return {
        name: `${site.code}-interfaces.json`,
        type: 'application/yang-data+json',
        text: segmentsAsIetf(site.segments),
      };
    if (format === 'kea')
      return { name: `${site.code}-dhcp4.json`, type: 'application/json', text: segmentsAsKea(site.segments) };
    const text = writeTable(segmentTable(site.segments, roster));
    return { name: `${site.code}-segments.csv`, type: 'text/csv', text };
  }

  /** What a list of segments would do at a site; nothing is changed. @throws AppError `list.refused`. */
  async preview(draftId: string, siteId: string, bytes: Uint8Array): Promise<SegmentListPreview> {
    const read = await this.heavy.read('read-table', bytes);
    if (!read.ok) throw new AppError('list.refused', read.reason);
    const { intent, roster } = await this.drafts.open(draftId);
    if (!intent.sites.has(siteId)) throw unknown('site');
    return checkSegmentList(read.table, intent, siteId, roster, randomUUID);
  }

  /** What stamping a recipe into sites would do; nothing is changed. */
  async stamp(draftId: string, recipeId: string, siteIds: readonly string[]): Promise<RecipeStamp[]> {
    const { intent } = await this.drafts.open(draftId);
    const recipe = intent.estate.recipes?.find((each) => each.id === recipeId);
    if (!recipe) throw unknown('recipe');
    return stampRecipe(intent, recipe, siteIds, randomUUID);
  }
}

const reportedBy = ({ id, name, mac, report }: Device) => ({
  deviceId: id,
  deviceName: name!,
  mac,
  neighbours: report?.neighbours ?? [],
  clients: report?.clients ?? [],
  wired: report?.wired ?? [],
  leases: report?.leases ?? [],
});
