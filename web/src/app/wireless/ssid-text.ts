import { asksPassphrase, type MulticastWay, type RoamAid, type SsidSecurity } from '@iron-lattice/core/document';
import type { Band } from '@iron-lattice/core/hardware';
import { NO_CAPS, capsOf, capsText, type CapsText } from '../shell/caps-text';
import type { Isolation, SharedReach, Ssid, SsidFields, TunnelEnd } from '@iron-lattice/core/intent';

/** An SSID as it is typed. */
export interface SsidText {
  readonly name: string;
  readonly security: SsidSecurity;
  /** Segments that keys of a ring lead to; null: a passphrase is asked for. */
  readonly ring: readonly string[] | null;
  /** Where those keys are: RADIUS servers name them; null: they are kept here. */
  readonly keysAt: 'servers' | null;
  /** Empty keeps the passphrase there is. */
  readonly passphrase: string;
  /** Until when the one before stays right, such as `2026-12-31`; empty: no longer. Only with a new one. */
  readonly until: string;
  readonly bands: readonly Band[];
  readonly segment: string;
  /** Where its clients’ frames are carried to; null: over the cables. */
  readonly tunnel: TunnelEnd | null;
  /** What its clients are kept from; null: nothing. */
  readonly isolation: Isolation | null;
  /** Whether clients of a class join its segment. */
  readonly byClass: boolean | null;
  readonly reach: SharedReach;
  readonly purpose: string;
  readonly hidden: boolean;
  /** Signals in dBm and a count; empty: none. */
  readonly join: string;
  readonly stay: string;
  readonly most: string;
  readonly steer: boolean;
  readonly roam: readonly RoamAid[];
  /** How multicast and broadcast are kept down; null: sent as they come. */
  readonly multicast: MulticastWay | null;
  readonly caps: CapsText;
  /** The APs that send it, by site; at others all do. */
  readonly aps: Readonly<Record<string, readonly string[]>>;
  /** The tags by which these were chosen, by site. */
  readonly apTags: Readonly<Record<string, string>>;
  /** Id of the hours that it is sent at; null: always. */
  readonly hours: string | null;
  /** Id of the portal that holds its clients until they are let in; null: none. */
  readonly portal: string | null;
}

/** How an SSID is typed; one that is new, as most are. */
export function textOf(ssid: Ssid | null, newReach: SharedReach): SsidText {
  if (!ssid)
    return {
      ...{
        name: '',
        security: 'wpa2-wpa3-psk',
        ring: null,
        keysAt: null,
        passphrase: '',
        until: '',
        bands: ['2.4', '5'],
        segment: '',
      },
      ...{ tunnel: null, multicast: null, isolation: null, byClass: null, reach: newReach, purpose: '' },
      ...{
        hidden: false,
        join: '',
        stay: '',
        most: '',
        steer: false,
        roam: [],
        caps: NO_CAPS,
        hours: null,
        portal: null,
        aps: {},
        apTags: {},
      },
    };
  const {
    name,
    security,
    ring = null,
    keysAt = null,
    bands,
    segment,
    isolation = null,
    byClass = null,
    reach,
    purpose,
  } = ssid;
  const numbers = { join: written(ssid.join), stay: written(ssid.stay), most: written(ssid.most) };
  return {
    ...{
      name,
      security,
      ring,
      keysAt,
      passphrase: '',
      until: '',
      bands,
      segment,
      isolation,
      byClass,
      reach,
      purpose: purpose ?? '',
    },
    ...{ ...numbers, hidden: ssid.hidden ?? false, steer: ssid.steer ?? false, roam: ssid.roam ?? [] },
    caps: capsText(ssid.caps),
    hours: ssid.hours ?? null,
    portal: ssid.portal ?? null,
    tunnel: ssid.tunnel ?? null,
    multicast: ssid.multicast ?? null,
    aps: ssid.aps ?? {},
    apTags: ssid.apTags ?? {},
  };
}

/** What was typed as the fields that an edit names; the passphrase goes beside it. */
export function fieldsOf(text: SsidText): Omit<SsidFields, 'passphrase' | 'former' | 'off' | 'exceptions'> {
  const {
    passphrase: _passphrase,
    until: _until,
    purpose,
    hidden,
    steer,
    roam,
    join,
    stay,
    most,
    caps,
    aps,
    apTags,
    ...rest
  } = text;
  return {
    ...rest,
    purpose: purpose.trim() || null,
    ...{ hidden: hidden || null, steer: steer || null, roam: roam.length > 0 ? roam : null },
    caps: capsOf(caps),
    aps: apsOf(aps),
    apTags: Object.keys(apTags).length > 0 ? apTags : null,
    ...{ join: numberOf(join), stay: numberOf(stay), most: numberOf(most) },
  };
}

/** APs by site, in the one order they are kept in; null: nothing is said. */
function apsOf(aps: SsidText['aps']): NonNullable<SsidFields['aps']> | null {
  const sites = Object.keys(aps).sort();
  return sites.length === 0 ? null : Object.fromEntries(sites.map((id) => [id, [...aps[id]!].sort()]));
}

const written = (value: number | null | undefined): string => (typeof value === 'number' ? `${value}` : '');

const WHOLE = /^[-−]?\d{1,6}$/;
const cleaned = (text: string): string => text.trim().replace(/\s*(dBm|clients?)$/i, '');
/** A number that was typed; null: nothing was. */
const numberOf = (text: string): number | null =>
  cleaned(text) === '' ? null : Number(cleaned(text).replace('−', '-'));

/** What is wrong with a number as it is typed; empty: nothing. */
export const numberFlaw = (text: string): string =>
  cleaned(text) === '' || WHOLE.test(cleaned(text)) ? '' : 'A whole number, or nothing.';

/** Whether a passphrase has to be given that was not yet. */
export const lacksPassphrase = ({ security, ring, passphrase }: SsidText, ssid: Ssid | null): boolean =>
  asksPassphrase(security) && ring === null && passphrase === '' && !ssid?.passphrase;
