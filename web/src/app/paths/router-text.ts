import { sheetFor } from '@iron-lattice/core/hardware';
import {
  segmentsOfRouter,
  type AssumedRule,
  type RosterDevice,
  type SitePart,
  type SiteRouter,
} from '@iron-lattice/core/intent';
import { readEnds, readServices, writeEnds, writeServices, type EndNames } from '@iron-lattice/core/rules';
import { counted } from '../ui/counted';

/** A router beside the gateway as its sheet reads. */
export interface RouterText {
  readonly name: string;
  /** Id of a switch of ours; empty: a box of others. */
  readonly deviceId: string;
  /** Id of the segment in which it meets the gateway; empty: in none. */
  readonly segmentId: string;
  readonly address: string;
  /** The device that it is plugged in at, by id; empty: nobody knows. */
  readonly atId: string;
  readonly atPort: string;
  readonly ownWayOut: boolean;
  /** Networks behind it, parted by `;`. */
  readonly behind: string;
  /** What it is assumed to let pass, a line each. */
  readonly lets: string;
  readonly purpose: string;
}

export const NEW_ROUTER: RouterText = {
  ...{ name: '', deviceId: '', segmentId: '', address: '', atId: '', atPort: '' },
  ...{ ownWayOut: false, behind: '', lets: '', purpose: '' },
};

/** A router as it would be typed. */
export const routerTextOf = (router: SiteRouter): RouterText => ({
  ...{ name: router.name, deviceId: router.deviceId ?? '', purpose: router.purpose ?? '' },
  ...{ segmentId: router.meets?.segmentId ?? '', address: router.meets?.address ?? '' },
  ...{ atId: router.at?.deviceId ?? '', atPort: router.at?.port ?? '', ownWayOut: router.ownWayOut ?? false },
  behind: (router.behind ?? []).join('; '),
  lets: (router.lets ?? []).map(lineOf).join('\n'),
});

/** One line of what a box is assumed to let pass: `deny segment Cameras to segment Crew on tcp 22`. */
function lineOf({ verdict, from, to, services }: AssumedRule): string {
  const what = writeServices(services);
  return `${verdict} ${writeEnds(from)} to ${writeEnds(to)}${what === 'any' ? '' : ` on ${what}`}`;
}

/** What is typed, as a router. */
export function routerTyped(text: RouterText, known: EndNames): Omit<SiteRouter, 'id'> {
  const ours = text.deviceId !== '';
  const parts = text.behind.split(/[;,\n]/).map((part) => part.trim());
  const behind = ours ? [] : parts.filter((part) => part !== '');
  const lets = ours ? [] : letsTyped(text.lets, known);
  return {
    name: text.name,
    deviceId: ours ? text.deviceId : null,
    meets: text.segmentId === '' ? null : { segmentId: text.segmentId, address: text.address },
    at: ours || text.atId === '' ? null : { deviceId: text.atId, port: text.atPort.trim() },
    ownWayOut: (!ours && text.ownWayOut) || null,
    behind: behind.length > 0 ? behind : null,
    lets: lets.length > 0 ? lets : null,
    purpose: text.purpose.trim() || null,
  };
}

/** Reads lines of what is assumed; one that cannot be read names no address, and is refused as such. */
export function letsTyped(text: string, known: EndNames): AssumedRule[] {
  const lines = text.split('\n').map((line) => line.trim());
  return lines
    .filter((line) => line !== '')
    .map((line, i): AssumedRule => {
      const found = /^(allow|deny)\s+(.+?)\s+to\s+(.+?)(?:\s+on\s+(.+))?$/i.exec(line);
      const { services, bad } = readServices(found?.[4] ?? 'any');
      const id = `line ${i + 1}`;
      if (!found || bad.length > 0) {
        const whole = [{ kind: 'addresses' as const, text: `“${line}”`.slice(0, 100) }];
        return { id, verdict: 'deny', from: whole, to: [{ kind: 'any' }], services: [{ protocol: 'any' }] };
      }
      const verdict = found[1]!.toLowerCase() === 'allow' ? 'allow' : 'deny';
      return { id, verdict, from: readEnds(found[2]!, known), to: readEnds(found[3]!, known), services };
    });
}

/** What routers are, and where they meet the gateway, in words. */
export function routerWords(site: SitePart, roster: readonly RosterDevice[], router: SiteRouter): readonly string[] {
  const device = roster.find(({ id }) => id === router.deviceId);
  const what = router.deviceId ? (device?.name ?? 'a switch that is gone') : 'box of others, as assumed';
  const routed = segmentsOfRouter(site, router.id).map(({ name }) => name);
  const behind = router.behind ?? [];
  const has = [...routed, ...behind];
  const met = site.segments.find(({ id }) => id === router.meets?.segmentId);
  const meets = router.meets ? `meets the gateway at ${router.meets.address}${met ? `, ${met.name}` : ''}` : '';
  const out = router.ownWayOut ? 'a line of its own to the internet' : '';
  return [
    what,
    has.length > 0
      ? `routes ${has.slice(0, 4).join(', ')}${has.length > 4 ? ` and ${has.length - 4} more` : ''}`
      : 'routes nothing yet',
    [meets, out].filter((each) => each !== '').join('; '),
  ];
}

/** Switches that can route, as what a router may be. */
export const switchesThatRoute = (
  roster: readonly RosterDevice[],
): { readonly value: string; readonly label: string }[] =>
  roster.flatMap((device) => {
    const { kind, routes } = sheetFor(device);
    return kind === 'switch' && routes
      ? [{ value: device.id, label: `${device.name}, which routes ${counted(routes, 'segment')}` }]
      : [];
  });
