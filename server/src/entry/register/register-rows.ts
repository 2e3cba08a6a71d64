import type { ClientStay } from '@iron-lattice/core/entry';
import type { LiveIntent } from '../../intent/intent.service';
import { reaches, type AccessClass, type EstatePart } from '@iron-lattice/core/intent';
import type { KeptStay } from './register-book';

/** A place of a client, as it is kept. */
export interface StayRow {
  readonly mac: string;
  readonly site_id: string;
  readonly site: string | null;
  readonly device: string | null;
  readonly place: string;
  readonly ssid: string | null;
  readonly body: KeptStay;
  readonly times: number;
  readonly here: boolean;
  readonly first_at: Date;
  readonly last_at: Date;
}

/** Columns of `StayRow`, of a place `p`, its device `d` and its site `s`. */
export const STAY_COLUMNS = `p.mac, p.site_id, s.name AS site, d.name AS device, p.place, p.ssid, p.body, p.times, p.here AND d.online AS here, p.first_at,
  CASE WHEN p.here THEN greatest(p.last_at, d.heard_at) ELSE p.last_at END AS last_at`;

/** Says what is kept of places in the words of what is live: segments and classes by their names. Of sites nothing is worked out: there may be thousands. */
export class StayWords {
  private readonly members = new Map<EstatePart, Map<string, AccessClass[]>>();

  constructor(private readonly live: LiveIntent) {}

  of({ mac, site_id: siteId, site, device, place, ssid, body, ...row }: StayRow): ClientStay {
    const pair = this.live.pairs.get(siteId);
    return {
      ...{ siteId, site: site ?? '', device: device ?? '' },
      ...{ ssid, port: ssid === null ? place.slice('port '.length) : null },
      segment: pair?.site.segments.find(({ vlan }) => vlan === body.vlan)?.name ?? `VLAN ${body.vlan}`,
      accessClass: (pair && this.classOf(pair.estate, siteId, mac, body)?.name) ?? '',
      ...{ user: body.user ?? '', server: body.server ?? '', address: body.address ?? '' },
      ...{ firstAt: row.first_at.toISOString(), lastAt: row.last_at.toISOString() },
      ...{ here: row.here, times: row.times },
    };
  }

  /** The class that a server named; of whom none did, the one here that lists its MAC address. */
  private classOf(
    estate: EstatePart,
    siteId: string,
    mac: string,
    { classId, user }: KeptStay,
  ): AccessClass | undefined {
    if (classId !== undefined) return estate.classes?.find(({ id }) => id === classId);
    if (user !== undefined) return undefined;
    return this.membersOf(estate)
      .get(mac)
      ?.find(({ reach }) => reaches(reach, siteId));
  }

  private membersOf(estate: EstatePart): ReadonlyMap<string, AccessClass[]> {
    const known = this.members.get(estate);
    if (known) return known;
    const all = new Map<string, AccessClass[]>();
    for (const each of estate.classes ?? [])
      for (const { mac } of each.members) all.set(mac, [...(all.get(mac) ?? []), each]);
    this.members.set(estate, all);
    return all;
  }
}
