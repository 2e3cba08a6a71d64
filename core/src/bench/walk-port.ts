import {
  appliesAt,
  classBySaid,
  classOf,
  waysOf,
  type DeviceDocument,
  type PortDocument,
  type RadiusDocument,
} from '../document';
import type { AskingWay } from '../document';
import type { Link } from '../intent';
import { entersPort, type AtPort, type Documents, type PortTried } from '../lattice';
import { METHOD_WORDS, type AskedFor } from '../radius';
import { PROBE_MAC, type PortProbe, type WalkFacts } from './probe';
import { askedStep, decider, namesOf, NOWHERE } from './walk-entry';
import { onward, portDecider } from './walk-onward';
import { heldAgainStep, portalAtPort, portalSteps } from './walk-portal';
import { pass, stop, type Decider, type WalkStep } from './walk-step';

/** Whom servers are asked for when a probe is walked at a port, way by way in the order of the port; null: for nobody. */
export function portAsks(
  documents: Documents,
  { deviceId, port: name, mac, entry }: PortProbe,
): { readonly radius: RadiusDocument; readonly ways: readonly (readonly [AskingWay, AskedFor])[] } | null {
  const document = documents.get(deviceId);
  const port = document?.ports.find((each) => each.name === name);
  if (!document?.radius || !port) return null;
  const at = { mac: mac ?? PROBE_MAC, at: name };
  const ways = waysOf(port.auth).flatMap((way): (readonly [AskingWay, AskedFor])[] => {
    if (way === '802.1X') return entry ? [[way, { ...entry, ...at }]] : [];
    return mac === undefined || classOf(document, mac)
      ? []
      : [[way, { method: 'mac', user: mac, password: '', ...at }]];
  });
  return ways.length === 0 ? null : { radius: document.radius, ways };
}

/** Walks a probe that is plugged into a port. */
export function* atPort(
  documents: Documents,
  links: readonly Link[],
  probe: PortProbe,
  facts: WalkFacts,
): Generator<WalkStep> {
  const { deviceId, port: name } = probe;
  const document = documents.get(deviceId);
  const here: Decider = { kind: 'device', id: deviceId, name: document?.device.name ?? 'the device' };
  const port = document?.ports.find((each) => each.name === name);
  if (!document || !port) {
    const detail = document
      ? `${document.device.name} is told of no port ${name}.`
      : 'It runs no document of ours yet.';
    yield stop('associate', 'Nothing to plug into', detail, here);
    return;
  }
  const by = portDecider(documents, { deviceId, port: name });
  yield plugged(documents, links, probe, port, facts);
  const { steps, at } = entered(document, port, probe, facts, by);
  yield* steps;
  const landed = landing(port, at, by);
  yield landed;
  if (at.vlan === null) return;
  const list = document.kind === 'switch' ? document.list : undefined;
  const lists = list ? { from: list, to: list } : undefined;
  const portal = portalAtPort(document, name, at, facts);
  const held = portalSteps(document, portal, probe, facts);
  yield* onward({ documents, links, deviceId, joins: at.vlan, held, lists, facts });
  const again = heldAgainStep(portal, facts);
  if (again) yield again;
}

/** What becomes of a probe at a port, by itself; null where there is no such port. */
export function entersAt(document: DeviceDocument, probe: PortProbe, facts: WalkFacts): AtPort<string> | null {
  const port = document.ports.find(({ name }) => name === probe.port);
  const by: Decider = { kind: 'port', id: probe.deviceId, name: probe.port };
  return port ? entered(document, port, probe, facts, by).at : null;
}

function plugged(
  documents: Documents,
  links: readonly Link[],
  { deviceId, port: name }: PortProbe,
  port: PortDocument,
  { minute, day = '' }: WalkFacts,
): WalkStep {
  const by = portDecider(documents, { deviceId, port: name });
  const where = `${documents.get(deviceId)!.device.name} port ${name}`;
  const ends = links.flatMap(({ a, b }) => [[a, b] as const, [b, a] as const]);
  const other = ends.find(([near]) => near.deviceId === deviceId && near.port === name)?.[1];
  if (other) {
    const device = documents.get(other.deviceId)?.device.name ?? 'a device of ours';
    return stop('associate', 'Taken', `${device} hangs at ${where}: plug the probe in elsewhere.`, by);
  }
  if (port.hours && !appliesAt(port.hours, minute, day))
    return stop('associate', 'Not in use now', `${where} is in use at ${port.hours.name} alone.`, by);
  return pass('associate', `Plugged into ${where}`, 'The cable is alive.', by);
}

/** What comes of the ways in which a port asks, and a step for each that was tried. */
function entered(
  document: DeviceDocument,
  port: PortDocument,
  { entry, mac = PROBE_MAC }: PortProbe,
  { askedBy }: WalkFacts,
  by: Decider,
): { readonly steps: readonly WalkStep[]; readonly at: AtPort<string> } {
  const steps: WalkStep[] = [];
  const tell = (title: string, detail: string, decided = by): void => {
    steps.push(pass('authenticate', title, detail, decided));
  };
  const byServers = (way: AskingWay, who: string): PortTried<string> => {
    const asked = askedBy?.[way];
    if (!document.radius || asked?.length === 0) {
      tell('Nobody to ask', `${document.device.name} is told of no RADIUS server that it could ask for ${who}.`);
      return { state: 'unanswered', why: 'no server is to be asked' };
    }
    if (!asked) {
      tell('Not asked', 'Servers are asked for somebody only by whoever may change things here.');
      return { state: 'unanswered', why: 'servers were not asked' };
    }
    tell(
      way === '802.1X' ? 'Says who it is' : 'Known by its address?',
      `${document.device.name} asks ${namesOf(asked)} for ${who}.`,
    );
    // What one way does not let in another may, or a segment for such: none of them ends the walk.
    steps.push(...asked.map((one, i) => ({ ...askedStep(one, i === asked.length - 1, who), passed: true })));
    const { exchange, server } = asked.at(-1)!;
    if (exchange.end === 'accepted') {
      const chosen = classBySaid(document, exchange);
      if (chosen.ok) return { state: 'in', accessClass: chosen.accessClass ?? null };
      tell('Leads nowhere', NOWHERE[chosen.why](chosen.said), decider(server));
      return { state: 'not', why: `“${server}” names what is not here` };
    }
    const no = ['rejected', 'unkept', 'untrusted', 'other-method'].includes(exchange.end);
    return no
      ? { state: 'not', why: `“${server}” does not let it in` }
      : { state: 'unanswered', why: 'no server answers' };
  };
  const at = entersPort<string>(port, {
    '802.1X': () => {
      if (entry) return byServers('802.1X', `${entry.user}, by ${METHOD_WORDS[entry.method]}`);
      tell('Asked who it is', 'The port asks by 802.1X, and this probe does not say.');
      return { state: 'mute' };
    },
    mac: () => {
      const listed = classOf(document, mac);
      if (!listed) {
        if (document.radius?.servers.some(({ macs }) => macs !== undefined) === true && askedBy?.mac)
          return byServers('mac', mac);
        tell('Not listed', `No class lists ${mac}${askedBy?.mac ? '' : ', and no server was asked about it'}.`);
        return { state: 'not', why: `nobody knows ${mac}` };
      }
      tell('Known', `${mac} is listed by the class “${listed.name}”.`, {
        kind: 'class',
        id: listed.id,
        name: listed.name,
      });
      return { state: 'in', accessClass: listed };
    },
  });
  return { steps, at };
}

const FELL = {
  guest: 'those who do not say who they are',
  rejected: 'those who are turned away',
  unanswered: 'those whom no server answers about',
} as const;

/** Where it lands. */
function landing(port: PortDocument, { vlan, accessClass, fell, why, tagged }: AtPort<string>, by: Decider): WalkStep {
  if (accessClass) {
    const decided: Decider = { kind: 'class', id: accessClass.id, name: accessClass.name };
    if (vlan === null)
      return stop(
        'vlan',
        'Not let in',
        `The class “${accessClass.name}” has a segment that this site does not have.`,
        decided,
      );
    const how = tagged ? ', with its tag, as a desk phone' : '';
    return pass('vlan', `VLAN ${vlan}`, `The class “${accessClass.name}” joins VLAN ${vlan}${how}.`, decided);
  }
  if (vlan === null) {
    if (waysOf(port.auth).length === 0) {
      const carries = port.tagged.length > 0 ? `only VLAN ${port.tagged.join(', ')} with their tags` : 'no VLAN';
      return stop(
        'vlan',
        'Nothing for it',
        `Port ${port.name} carries ${carries}: a client without tags gets nowhere.`,
        by,
      );
    }
    const reason =
      why === 'mute'
        ? 'It does not say who it is'
        : why === 'nothing'
          ? 'No class was named, and the port has no segment of its own'
          : `It is not let in (${why})`;
    return stop('vlan', 'Let in nowhere', `${reason}, and port ${port.name} has no segment for such.`, by);
  }
  if (fell) return pass('vlan', `VLAN ${vlan}`, `Port ${port.name} puts ${FELL[fell]} into VLAN ${vlan}.`, by);
  return pass('vlan', `VLAN ${vlan}`, `Port ${port.name} carries VLAN ${vlan} untagged.`, by);
}
