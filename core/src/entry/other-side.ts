import { classOf, parseIp } from '../address';
import type { ResolvedSite } from '../intent';
import { macAs, type MacFormat } from '../radius';

/** What a server has to know, to be asked from a site. */
export interface OtherSide {
  /** From which addresses it is asked, as it sees them. */
  readonly addresses: readonly string[];
  /** Why these, in a sentence. */
  readonly why: string;
  /** What it may answer, for each class here. */
  readonly answers: readonly { readonly name: string; readonly filterId: string; readonly vlan: string | null }[];
  /** SSIDs whose keys it names: how a client is called there, and the segments that a key may lead to. */
  readonly rings: readonly RingAsked[];
}
export interface RingAsked {
  readonly ssid: string;
  readonly user: string;
  readonly segments: readonly string[];
  /** Classes that a key may lead to instead, and another client that has such a one; null: classes do not count there. */
  readonly byClass: { readonly user: string; readonly classes: readonly string[] } | null;
}

/** Whether an address is of private space, which no provider carries. */
function isPrivate(address: string): boolean {
  const ip = parseIp(address);
  return ip !== null && ['private', 'ula'].includes(classOf(ip));
}

/** MAC addresses that stand for any in what is to be entered. */
const EXAMPLE_MACS = ['02:00:00:00:00:01', '02:00:00:00:00:02'] as const;

/** SSIDs of a site whose keys servers name. @param macs how servers call clients. */
function ringsOf({ ssids, segments }: Pick<ResolvedSite, 'ssids' | 'segments'>, macs: MacFormat): RingAsked[] {
  const [user, other] = EXAMPLE_MACS.map((mac) => macAs(mac, macs)) as [string, string];
  const names = new Map(segments.map(({ id, name }) => [id, name]));
  return ssids.flatMap((ssid) => {
    if (!ssid.ring || ssid.keysAt !== 'servers') return [];
    const ids = [
      ...(ssid.segmentId === null ? [] : [ssid.segmentId]),
      ...(ssid.ringSegments ?? []).map((each) => each.segmentId),
    ];
    const classes = (ssid.classes ?? []).flatMap(({ name, segmentId }) => (segmentId === null ? [] : [name]));
    const byClass = classes.length > 0 ? { user: other, classes } : null;
    return [{ ssid: ssid.name, user, segments: [...new Set(ids)].flatMap((id) => names.get(id) ?? []), byClass }];
  });
}

/**
 * What is to be entered at a server for a site: whom it will be asked by, and what it may answer.
 * @param server its address, where it is one; a name is taken to be on the internet. @param uplinks addresses that providers gave the site’s gateways.
 */
export function otherSideOf(
  site: Pick<ResolvedSite, 'accessClasses' | 'segments' | 'ssids' | 'management' | 'name'>,
  server: { readonly address: string; readonly source: 'device' | 'gateway'; readonly macs: MacFormat | null },
  uplinks: readonly string[],
): OtherSide {
  const segments = new Map(site.segments.map((segment) => [segment.id, segment]));
  const answers = site.accessClasses.map(({ name, segmentId }) => ({
    ...{ name, filterId: name },
    vlan: (segmentId === null ? undefined : segments.get(segmentId)?.name) ?? null,
  }));
  const rings = server.macs === null ? [] : ringsOf(site, server.macs);
  if (!isPrivate(server.address))
    return {
      ...{ answers, rings, addresses: [...uplinks].sort() },
      why:
        uplinks.length > 0
          ? `Beyond ${site.name} all of it is seen by the addresses of its uplinks.`
          : `No uplink of ${site.name} has an address yet.`,
    };
  const { subnet, gateway } = site.management;
  return server.source === 'gateway'
    ? { answers, rings, addresses: [gateway], why: 'The gateway asks for all of the site.' }
    : {
        answers,
        rings,
        addresses: [subnet],
        why: `APs and switches ask by their own addresses in ${site.management.name}.`,
      };
}
