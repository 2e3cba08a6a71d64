import type { ClientStay } from '@iron-lattice/core/entry';
import { segmentNameOf } from '@iron-lattice/core/intent';
import type { LiveIntent } from '../../intent/intent.service';
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
  constructor(private readonly live: LiveIntent) {}

  of({ site_id: siteId, site, device, place, ssid, body, ...row }: StayRow): ClientStay {
    const pair = this.live.pairs.get(siteId);
    return {
      ...{ siteId, site: site ?? '', device: device ?? '' },
      ...{ ssid, port: ssid === null ? place.slice('port '.length) : null },
      segment: pair ? segmentNameOf(pair.estate, pair.site, body) : `VLAN ${body.vlan}`,
      accessClass: pair?.estate.classes?.find(({ id }) => id === body.classId)?.name ?? '',
      ...{ user: body.user ?? '', server: body.server ?? '', address: body.address ?? '' },
      ...{ firstAt: row.first_at.toISOString(), lastAt: row.last_at.toISOString() },
      ...{ here: row.here, times: row.times },
    };
  }
}
