import {
  asksWho,
  classBySaid,
  classOf,
  classOnSsid,
  type DeviceDocument,
  type RadiusDocument,
  type SaidOf,
} from '../document';
import type { ResolvedSite, RosterDevice } from '../intent';
import { entersPort, joinsOnSsid, type Documents, type PortTried } from '../lattice';
import { siteInEffect } from '../rollout';
import { leadsNowhere, portStops, whatTheyGet } from './gets';
import type { Gets, GetsTried, GetsTry, Whom } from './gets.contract';
import type { AskedOne } from './probe';

/** A device that can ask at a place: what the place is called there, and whom it asks; null: nobody. */
export interface PlaceAsker {
  readonly deviceId: string;
  readonly at: string;
  readonly radius: RadiusDocument | null;
}

/** Where somebody stands: an SSID at an AP, or a port. */
export type Stood =
  { readonly ssidId: string; readonly deviceId: string } | { readonly deviceId: string; readonly port: string };

/** The devices of a site that can ask at a place, as they would be told. */
export function placeAskers(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  place: GetsTry['place'],
): PlaceAsker[] {
  return [...siteInEffect(site, roster)].flatMap(([deviceId, document]): PlaceAsker[] => {
    const at =
      'ssidId' in place
        ? document.kind === 'ap' && document.ssids.find(({ id }) => id === place.ssidId)?.name
        : deviceId === place.deviceId && document.ports.find(({ name }) => name === place.port)?.name;
    return at ? [{ deviceId, at, radius: document.radius ?? null }] : [];
  });
}

/** What was got, by what servers really said, and where that differs from what was computed. @param asked in the order in which they were. */
export function gotTried(
  { site, roster }: { readonly site: ResolvedSite; readonly roster: readonly RosterDevice[] },
  whom: Whom,
  stood: Stood,
  asked: readonly AskedOne[],
): Omit<GetsTried, 'device' | 'asked'> {
  const documents = siteInEffect(site, roster);
  const last = asked.at(-1);
  const accepted = last?.exchange.end === 'accepted' ? last.exchange : null;
  const got = gotAt({ site, documents }, stood, accepted, whom);
  const real = { ...got, stops: got.stops && last && !accepted ? whyNot(last) : got.stops };
  const expected = whatTheyGet({ site, roster, documents }, whom).find((row) => isOf(row, stood));
  return { ...real, differs: differences(expected, real, last) };
}

/**
 * What comes of asking at a place, by the same rules as devices have.
 * @param said what the last server said that let them in; null: none did.
 */
export function gotAt(
  { site, documents }: { readonly site: ResolvedSite; readonly documents: Documents },
  stood: Stood,
  said: SaidOf | null,
  { mac }: Pick<Whom, 'mac'>,
): Pick<GetsTried, 'accessClass' | 'segment' | 'stops'> {
  const device = documents.get(stood.deviceId);
  const found = !device
    ? { vlan: null, stops: 'It is not there.' }
    : 'ssidId' in stood
      ? onSsid(device, stood.ssidId, said, mac)
      : atPort(device, stood.port, said, mac);
  const segment = found.vlan === null ? undefined : site.segments.find(({ vlan }) => vlan === found.vlan);
  return {
    accessClass: found.vlan === null ? null : (found.className ?? null),
    segment: segment?.name ?? null,
    stops: found.vlan === null ? found.stops : null,
  };
}

type Found =
  { readonly vlan: number; readonly className?: string | undefined } | { readonly vlan: null; readonly stops: string };

const out = (stops: string): Found => ({ vlan: null, stops });

function onSsid(device: DeviceDocument, ssidId: string, said: SaidOf | null, mac: string | null): Found {
  const ssid = device.kind === 'ap' ? device.ssids.find(({ id }) => id === ssidId) : undefined;
  if (!ssid) return out('It is not sent there.');
  const who = asksWho(ssid.security);
  if (who && !said) return out('They are not let in.');
  const chosen = said && (who ? classOnSsid(device, ssid, said) : classBySaid(device, said));
  if (who && chosen && !chosen.ok) return out(leadsNowhere('The server', chosen.why, chosen.said));
  const named = chosen?.ok ? (chosen.accessClass ?? undefined) : undefined;
  const { vlan, accessClass } = joinsOnSsid(device, ssid, mac, undefined, named);
  return vlan === null ? out('Their class has no segment here.') : { vlan, className: accessClass?.name };
}

function atPort(device: DeviceDocument, name: string, said: SaidOf | null, mac: string | null): Found {
  const port = device.ports.find((each) => each.name === name);
  if (!port) return out('There is no such port.');
  const chosen = said && classBySaid(device, said);
  const tried = (): PortTried<string> =>
    !chosen
      ? { state: 'not', why: 'They are turned away.' }
      : chosen.ok
        ? { state: 'in', accessClass: chosen.accessClass }
        : { state: 'not', why: leadsNowhere('The server', chosen.why, chosen.said) };
  const listed = mac === null ? undefined : classOf(device, mac);
  const byMac = (): PortTried<string> => (listed ? { state: 'in', accessClass: listed } : tried());
  const { vlan, fell, accessClass, why } = entersPort<string>(port, { '802.1X': tried, mac: byMac });
  return vlan === null ? out(portStops(why)) : { vlan, className: fell ? undefined : accessClass?.name };
}

const isOf = ({ place }: Gets, stood: Stood): boolean =>
  'ssidId' in stood
    ? place.kind === 'ssid' && place.id === stood.ssidId
    : place.kind === 'ports' &&
      place.ports.some((each) => each.deviceId === stood.deviceId && each.port === stood.port);

const whyNot = ({ server, exchange: { end, why } }: AskedOne): string =>
  `“${server}” ${end === 'rejected' ? 'turns them away' : 'did not let them in'}. ${why}`.trim();

/** Where what was got differs from what was computed, in sentences. */
function differences(
  expected: Gets | undefined,
  got: Pick<GetsTried, 'accessClass' | 'segment' | 'stops'>,
  last: AskedOne | undefined,
): string[] {
  if (!expected) return [];
  if (expected.stops !== null)
    return got.stops === null ? [`They are let in, into ${got.segment}, and were not to be: ${expected.stops}`] : [];
  const segment = expected.segment!.name;
  if (got.stops !== null) return [`They were to be let in, into ${segment}, and are not: ${got.stops}`];
  const className = expected.accessClass?.name ?? null;
  const named = (name: string | null): string => (name === null ? 'no class' : `the class “${name}”`);
  return [
    ...(className === got.accessClass
      ? []
      : [`They get ${named(got.accessClass)}, and were to get ${named(className)}.`]),
    ...(segment === got.segment ? [] : [`They are in ${got.segment}, and were to be in ${segment}.`]),
    ...(last && expected.server !== null && last.server !== expected.server
      ? [`“${last.server}” said so, and “${expected.server}” was to be asked first.`]
      : []),
  ];
}
