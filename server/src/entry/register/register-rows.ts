import type { ClientStay } from '@iron-lattice/core/entry';
import type { LiveIntent } from '../../intent/intent.service';
import { resolve, type ResolvedSite } from '@iron-lattice/core/intent';
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

/** Says what is kept of places in the words of what is live: segments and classes by their names. */
export class StayWords {
  private readonly sites = new Map<string, ResolvedSite | null>();

  constructor(private readonly live: LiveIntent) {}

  of({ mac, site_id: siteId, site, device, place, ssid, body, ...row }: StayRow): ClientStay {
    const at = this.site(siteId);
    const classes = at?.accessClasses ?? [];
    const accessClass =
      body.classId === undefined
        ? body.user === undefined && classes.find(({ members }) => members.some((each) => each.mac === mac))
        : classes.find(({ id }) => id === body.classId);
    return {
      ...{
        siteId,
        site: site ?? '',
        device: device ?? '',
        ssid,
        port: ssid === null ? place.slice('port '.length) : null,
      },
      segment: at?.segments.find(({ vlan }) => vlan === body.vlan)?.name ?? `VLAN ${body.vlan}`,
      accessClass: accessClass ? accessClass.name : '',
      ...{ user: body.user ?? '', server: body.server ?? '', address: body.address ?? '' },
      ...{ firstAt: row.first_at.toISOString(), lastAt: row.last_at.toISOString(), here: row.here, times: row.times },
    };
  }

  private site(id: string): ResolvedSite | null {
    const known = this.sites.get(id);
    if (known !== undefined) return known;
    const pair = this.live.pairs.get(id);
    const found = pair ? resolve(pair.estate, pair.site) : null;
    this.sites.set(id, found);
    return found;
  }
}
