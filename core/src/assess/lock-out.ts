import { inRange, parseIp, type IpRange } from '../address';
import { resolve, type EstatePart, type ResolvedSite, type RosterDevice, type SitePart } from '../intent';
import { sheetFor } from '../hardware';
import { enforcedAt, policyOf } from '../rollout';
import { breachOf, packetWords, resolveRules, type ReachEnd } from '../rules';
import { clientsOf, CONTROLLER_PORT, viewPolicy, type PolicyView } from './policy-view';
import { nameIn } from './reach-view';

/** Who would not reach the controller any more. */
export interface LockOut {
  /** A device, or the person who asks. */
  readonly deviceId: string | null;
  readonly name: string;
  readonly packet: string;
  readonly why: string;
}

/** The controller's addresses and port; where they are not known, the whole of the internet has to do. */
function controllerOf(view: PolicyView): { readonly to: ReachEnd; readonly ports: readonly string[] } {
  const { controller = [] } = view.made.names;
  if (controller.length > 0) return { to: { key: 'controller', addresses: controller }, ports: [`${CONTROLLER_PORT}`] };
  const internet = resolveRules(
    [
      {
        id: '',
        verdict: 'allow',
        from: [{ kind: 'any' }],
        to: [{ kind: 'internet' }],
        services: [{ protocol: 'any' }],
      },
    ],
    view.made.names,
  ).rules[0]!.destination;
  return { to: { key: 'internet', addresses: internet }, ports: [`${CONTROLLER_PORT}`] };
}

function cutOff(view: PolicyView, addresses: readonly IpRange[]): { packet: string; why: string } | null {
  const { to, ports } = controllerOf(view);
  const [first] = ports.map(Number) as [number];
  const services = [{ protocol: 'tcp' as const, ports: [{ first, last: first }] }];
  for (const minute of view.open.moments) {
    const breach = breachOf(view.passage(minute), {
      kind: 'always',
      from: { key: 'from', addresses },
      to,
      services,
    });
    if (!breach) continue;
    const why = breach.rule ? `“${nameIn(view, breach.rule.id)}” stops it.` : 'Nothing lets it through.';
    return { packet: packetWords(breach.packet), why };
  }
  return null;
}

/** Devices whose way to the controller the site's rules close. Gateways reach it themselves. */
export function lockOuts(site: ResolvedSite, roster: readonly RosterDevice[], view: PolicyView): LockOut[] {
  const own = clientsOf(site).get(site.managementId) ?? [];
  // One question for all that ask for their address: they may be given any.
  let given: ReturnType<typeof cutOff> | undefined;
  const ofGiven = (): ReturnType<typeof cutOff> => (given === undefined ? (given = cutOff(view, own)) : given);
  return roster.flatMap((device): LockOut[] => {
    if (sheetFor(device).kind === 'gateway') return [];
    const fixed = device.address && parseIp(device.address.address);
    const found = fixed ? cutOff(view, [{ version: fixed.version, first: fixed.value, last: fixed.value }]) : ofGiven();
    return found ? [{ deviceId: device.id, name: device.name, ...found }] : [];
  });
}

/** Whether somebody at an address of a site would be cut off; null where they are not, or are not in the site. */
export function lockOutOf(
  estate: EstatePart,
  part: SitePart,
  roster: readonly RosterDevice[],
  address: string,
): LockOut | null {
  const ip = parseIp(address);
  const site = resolve(estate, part);
  if (!ip || ![...clientsOf(site).values()].flat().some((range) => inRange(range, ip))) return null;
  const made = policyOf(site, roster);
  const found = cutOff(viewPolicy(site, made, enforcedAt(site, roster), site.id), [
    { version: ip.version, first: ip.value, last: ip.value },
  ]);
  return found && { deviceId: null, name: `you, at ${address}`, ...found };
}
