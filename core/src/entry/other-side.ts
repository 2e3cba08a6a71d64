import { classOf, parseIp } from '../address';
import type { ResolvedSite } from '../intent';

/** What a server has to know, to be asked from a site. */
export interface OtherSide {
  /** From which addresses it is asked, as it sees them. */
  readonly addresses: readonly string[];
  /** Why these, in a sentence. */
  readonly why: string;
  /** What it may answer, for each class here. */
  readonly answers: readonly { readonly name: string; readonly filterId: string; readonly vlan: string | null }[];
}

/** Whether an address is of private space, which no provider carries. */
function isPrivate(address: string): boolean {
  const ip = parseIp(address);
  return ip !== null && ['private', 'ula'].includes(classOf(ip));
}

/**
 * What is to be entered at a server for a site: whom it will be asked by, and what it may answer.
 * @param server its address, where it is one; a name is taken to be on the internet. @param uplinks addresses that providers gave the site’s gateways.
 */
export function otherSideOf(
  site: Pick<ResolvedSite, 'accessClasses' | 'segments' | 'management' | 'name'>,
  server: { readonly address: string; readonly source: 'device' | 'gateway' },
  uplinks: readonly string[],
): OtherSide {
  const segments = new Map(site.segments.map((segment) => [segment.id, segment]));
  const answers = site.accessClasses.map(({ name, segmentId }) => ({
    ...{ name, filterId: name },
    vlan: (segmentId === null ? undefined : segments.get(segmentId)?.name) ?? null,
  }));
  if (!isPrivate(server.address))
    return {
      ...{ answers, addresses: [...uplinks].sort() },
      why:
        uplinks.length > 0
          ? `Beyond ${site.name} all of it is seen by the addresses of its uplinks.`
          : `No uplink of ${site.name} has an address yet.`,
    };
  const { subnet, gateway } = site.management;
  return server.source === 'gateway'
    ? { answers, addresses: [gateway], why: 'The gateway asks for all of the site.' }
    : { answers, addresses: [subnet], why: `APs and switches ask by their own addresses in ${site.management.name}.` };
}
