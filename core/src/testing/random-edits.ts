import fc from 'fast-check';
import { PORT_ASKS, SECURITIES } from '../document';
import { apply, type Intent, type Operation } from '../intent';
import { readEnds, readServices } from '../rules';
import { sampleId, sampleSite } from './sample-site';

/** What random edits are made of. */
export const { intent: start, site, roster, links } = sampleSite({ segments: 4, aps: 3, switches: 2 });
const siteId = site.id;
const yes = fc.boolean();
const nth = (most: number) => fc.nat(most);
const names = site.segments.map(({ name }) => name);
const oneOf = <T>(...all: T[]): fc.Arbitrary<T> => fc.constantFrom(...all);
/** Makes an edit of what is there now; null where there is nothing of the kind. */
const gateway = roster.find(({ model }) => model.startsWith('GW'))!;

export type Edit = (now: Intent) => Operation | null;

const here = (now: Intent) => now.sites.get(siteId)!;
const END = oneOf(
  'set Hosts',
  `device ${roster[1]!.name}`,
  'controller',
  'class Scanners',
  'any',
  'internet',
  'gateway',
  'private',
  ...names.map((name) => `segment ${name}`),
  'ssid SSID 1',
);
const SERVICE = oneOf('any', 'tcp 443', 'udp 53; tcp 53', 'icmp 8');

const segments: fc.Arbitrary<Edit> = fc
  .tuple(nth(3), yes, yes, oneOf('', 'crew.example'), nth(4))
  .map(([i, clients, apart, domain, how]) => (now) => {
    const segment = here(now).segments[i]!;
    const { addresses, isolation = null, domain: was = null } = segment;
    const lists = { ntp: ['10.1.1.9'], leaseSeconds: 7200 + how };
    const to = { isolation: { clients, segments: apart }, domain, addresses: addresses && { ...addresses, ...lists } };
    return { type: 'segment.set', siteId, segmentId: segment.id, from: { isolation, domain: was, addresses }, to };
  });
const switches: fc.Arbitrary<Edit> = fc.tuple(nth(3), yes).map(([i, service]) => (now) => {
  const segment = here(now).segments[i]!;
  const { addresses, off = null } = segment;
  const at = { type: 'segment.set' as const, siteId, segmentId: segment.id };
  if (!service || !addresses) return { ...at, from: { off }, to: { off: off ? null : true } };
  return { ...at, from: { addresses }, to: { addresses: { ...addresses, off: !addresses.off } } };
});
const exceptions: fc.Arbitrary<Edit> = fc
  .tuple(nth(2), oneOf(...names), yes, oneOf(null, 20), oneOf(null, 'gateway' as const))
  .map(([i, segment, off, most, tunnel]) => (now) => {
    const ssid = now.estate.ssids[i];
    if (!ssid) return null;
    const before = ssid.exceptions?.[siteId];
    const from = { exceptions: before ? { [siteId]: before } : {} };
    return {
      type: 'ssid.set',
      ssidId: ssid.id,
      from,
      to: { exceptions: { [siteId]: { segment, off, most, tunnel, multicast: off ? 'none' : null } } },
    };
  });
const ports: fc.Arbitrary<Edit> = fc
  .tuple(nth(2), oneOf('1', '2', '5', '9'), oneOf('none' as const, 'mac' as const), yes, nth(4), yes)
  .map(([d, port, auth, isolated, segment, poe]) => (now) => {
    const device = roster[d + 1]!;
    const from = here(now).ports[device.id]?.[port] ?? null;
    const untagged = here(now).segments[segment]?.id ?? null;
    const to = { ...from, untagged, tagged: [], auth, isolated, poe: poe ? ('on' as const) : ('off' as const) };
    return { type: 'port.set', siteId, deviceId: device.id, port, from, to };
  });
const RADIOS = fc.tuple(
  nth(2),
  oneOf('2.4' as const, '5' as const),
  oneOf(null, 1, 36, 44, 100),
  oneOf(null, 3, 12),
  yes,
);
const radios: fc.Arbitrary<Edit> = RADIOS.map(([d, band, channel, power, on]) => (now) => {
  const device = roster.filter(({ model }) => model.startsWith('AP'))[d];
  if (!device) return null;
  const from = here(now).radios?.[device.id]?.[band] ?? null;
  return { type: 'radio.set', siteId, deviceId: device.id, band, from, to: { channel, power, on, fixed: !on } };
});
const bands: fc.Arbitrary<Edit> = fc
  .tuple(oneOf('2.4' as const, '5' as const), oneOf(20 as const, 40 as const, 80 as const), yes, yes)
  .map(([band, width, radar, on]) => (now) => {
    const from = here(now).bands?.[band] ?? null;
    return { type: 'radio.band', siteId, band, from, to: { width, on, ...(band === '5' ? { radar } : {}) } };
  });
const mesh: fc.Arbitrary<Edit> = fc
  .tuple(nth(3), oneOf('never' as const, 'fallback' as const, 'always' as const), oneOf(1, 2), yes, yes)
  .map(([d, when, hops, named, off]) => (now) => {
    const [from, aps] = [here(now).mesh ?? null, roster.filter(({ model }) => model.startsWith('AP'))];
    const key = { secret: sampleId(8, 1) };
    const [device, parent] = [aps[d % aps.length]!, aps[(d + 1) % aps.length]!];
    if (!from || (off && !here(now).meshAps))
      return { type: 'mesh.site', siteId, from, to: from ? null : { when: 'never', band: '5', hops, key } };
    const said = here(now).meshAps?.[device.id] ?? null;
    const to = off ? null : { when, hops, ...(named ? { parents: [parent.id] } : {}) };
    return { type: 'mesh.set', siteId, deviceId: device.id, from: said, to };
  });
const TARGET = oneOf(
  { by: 'ping' as const, to: 'gateway' },
  { by: 'ping' as const, to: '198.51.100.7' },
  { by: 'dns' as const, to: '198.51.100.53', name: 'gull.example' },
);
const uplinks: fc.Arbitrary<Edit> = fc
  .tuple(
    oneOf('wan1', 'wan2', '4'),
    oneOf('dhcp' as const, 'static' as const, 'satellite' as const),
    oneOf(null, 7, 900),
    oneOf(0, 1, 5),
    yes,
    fc.uniqueArray(TARGET, { minLength: 1, maxLength: 3 }),
  )
  .map(([port, way, vlan, weight, shares, targets]) => (now) => {
    const from = here(now).uplinks?.[gateway.id]?.[port] ?? null;
    const fixed = { address: `203.0.113.${9 + weight}/28`, gateway: '203.0.113.14' };
    const watch = { targets, interval: 5, losses: 2 + weight, timeout: 1, good: 2, hold: 10 };
    const role = shares ? ('shares' as const) : ('standby' as const);
    const to =
      from && vlan === null ? null : { on: true, way, vlan, weight, role, fixed, watch, dns: ['198.51.100.53'] };
    return { type: 'uplink.set', siteId, deviceId: gateway.id, port, from, to };
  });
const leaving: fc.Arbitrary<Edit> = fc
  .tuple(oneOf('any' as const, 'all' as const), oneOf<number | 'hand' | 'never'>(0, 60, 'hand', 'never'), yes)
  .map(([begins, back, stay]) => (now) => {
    const from = here(now).leaving?.[gateway.id] ?? null;
    return { type: 'uplink.leaving', siteId, deviceId: gateway.id, from, to: { begins, back, stay } };
  });
const translations: fc.Arbitrary<Edit> = fc
  .tuple(nth(3), nth(3), oneOf('wan1', 'wan2'), oneOf('uplink' as const, 'itself' as const, 'pool' as const), nth(3))
  .map(([n, segment, port, as, what]) => (now) => {
    const id = sampleId(9, 40 + n);
    const old = here(now).translations?.find((each) => each.id === id);
    if (old && what === 0) return { type: 'translation.remove', siteId, translationId: id };
    const said = { port, as, turn: segment, pool: as === 'pool' ? '203.0.113.96/30' : null, off: what === 1 };
    if (old) {
      const from = { port: old.port, as: old.as, turn: old.turn, pool: old.pool ?? null, off: old.off ?? null };
      return { type: 'translation.set', siteId, translationId: id, from, to: said };
    }
    const home = here(now).segments[segment];
    if (!home) return null;
    const whom = { from: [{ kind: 'segment' as const, name: home.name }], to: [{ kind: 'internet' as const }] };
    return {
      type: 'translation.add',
      siteId,
      translation: { id, deviceId: gateway.id, name: `Seen ${n}`, ...whom, ...said },
    };
  });
const routes: fc.Arbitrary<Edit> = fc
  .tuple(nth(3), nth(3), nth(3), oneOf<number | null>(null, 10))
  .map(([n, segment, what, metric]) => (now) => {
    const id = sampleId(9, 30 + n);
    const old = here(now).routes?.find((each) => each.id === id);
    if (old && what === 0) return { type: 'route.remove', siteId, routeId: id };
    const home = here(now).segments[segment];
    if (!home) return null;
    const address = home.subnet.replace(/\d+\/\d+$/, `${3 + n}`);
    const via =
      what === 1
        ? { kind: 'nowhere' as const }
        : what === 2
          ? { kind: 'uplink' as const, port: 'wan1' }
          : { kind: 'address' as const, address };
    if (old) {
      const from = { via: old.via, metric: old.metric ?? null };
      return { type: 'route.set', siteId, routeId: id, from, to: { via, metric } };
    }
    const route = { id, deviceId: gateway.id, name: `Way ${n}`, prefix: `172.20.${n}.0/24`, via, metric };
    return { type: 'route.add', siteId, route };
  });
const publications: fc.Arbitrary<Edit> = fc
  .tuple(
    nth(3),
    nth(3),
    oneOf('443', '8000-8009'),
    oneOf<readonly string[]>([], ['wan1'], ['wan1', 'wan2']),
    yes,
    nth(3),
  )
  .map(([n, segment, outside, ports, within, what]) => (now) => {
    const id = sampleId(9, 20 + n);
    const old = here(now).publications?.find((each) => each.id === id);
    if (old && what === 0) return { type: 'publication.remove', siteId, publicationId: id };
    const said = { ports, within, off: what === 1, inside: what === 2 ? 9000 + n : null };
    if (old) {
      const from = { ports: old.ports, within: old.within ?? null, off: old.off ?? null, inside: old.inside ?? null };
      return { type: 'publication.set', siteId, publicationId: id, from, to: said };
    }
    const home = here(now).segments[segment];
    if (!home) return null;
    const address = home.subnet.replace(/\d+\/\d+$/, `${5 + n}`);
    const whom = { from: [{ kind: 'internet' as const }], address, outside, protocol: 'tcp' as const };
    return {
      type: 'publication.add',
      siteId,
      publication: { id, deviceId: gateway.id, name: `Port ${n}`, ...whom, ...said },
    };
  });
const courses: fc.Arbitrary<Edit> = fc
  .tuple(nth(3), nth(4), fc.uniqueArray(oneOf('wan1', 'wan2', '4'), { minLength: 1, maxLength: 3 }), yes, nth(3))
  .map(([n, segment, ports, shares, what]) => (now) => {
    const id = sampleId(9, n);
    const old = here(now).courses?.find((each) => each.id === id);
    if (old && what === 0) return { type: 'course.remove', siteId, courseId: id };
    const how = shares ? ('share' as const) : ('first' as const);
    const said = { ports, how, turn: segment, needs: what === 1 ? { latency: 100, voice: 3.8 } : null };
    if (old) {
      const from = { ports: old.ports, how: old.how, turn: old.turn, needs: old.needs ?? null };
      return { type: 'course.set', siteId, courseId: id, from, to: said };
    }
    const name = here(now).segments[segment]?.name;
    const from = [name === undefined ? { kind: 'any' as const } : { kind: 'segment' as const, name }];
    const course = { id, deviceId: gateway.id, name: `Course ${n}`, from, to: [{ kind: 'any' as const }], ...said };
    const services = [{ protocol: 'tcp' as const, ports: ['443'] }];
    return { type: 'course.add', siteId, course: { ...course, services, otherwise: shares ? 'usual' : 'nothing' } };
  });
const duties: fc.Arbitrary<Edit> = fc.tuple(nth(3), yes, nth(20)).map(([segment, given, storm]) => (now) => {
  const duty = here(now).duties?.[0];
  if (!duty) {
    const untagged = here(now).segments[segment]!.id;
    return { type: 'duty.add', siteId, duty: { id: sampleId(7, 0), name: 'Till', untagged, tagged: [] } };
  }
  if (!given)
    return { type: 'duty.set', siteId, dutyId: duty.id, from: { storm: duty.storm }, to: { storm: 1 + storm } };
  const from = here(now).ports[roster[1]!.id]?.['7'] ?? null;
  return { type: 'port.set', siteId, deviceId: roster[1]!.id, port: '7', from, to: { dutyId: duty.id } };
});
const askingPorts: fc.Arbitrary<Edit> = fc
  .tuple(oneOf('none' as const, ...PORT_ASKS), nth(4), oneOf('several' as const, 'one' as const, 'phone' as const), yes)
  .map(([auth, i, hosts, falls]) => (now) => {
    const from = here(now).ports[roster[1]!.id]?.['8'] ?? null;
    const id = here(now).segments[i]?.id ?? null;
    const to = { auth, hosts, voice: id, quiet: 30 + i, ...(falls ? { guest: id, rejected: id, unanswered: id } : {}) };
    return { type: 'port.set', siteId, deviceId: roster[1]!.id, port: '8', from, to };
  });
const secured: fc.Arbitrary<Edit> = fc.tuple(nth(2), oneOf(...SECURITIES)).map(([i, security]) => (now) => {
  const ssid = now.estate.ssids[i];
  if (!ssid) return null;
  return { type: 'ssid.set', ssidId: ssid.id, from: { security: ssid.security }, to: { security } };
});
const pools: fc.Arbitrary<Edit> = nth(2).map((way) => (now) => {
  const pool = here(now).pools?.[0];
  if (!pool) return { type: 'pool.add', siteId, pool: { id: sampleId(6, 0), name: 'Decks', vlans: '10,20' } };
  if (way === 0) return { type: 'pool.remove', siteId, poolId: pool.id };
  const vlans = pool.vlans === '10,20' ? '10,20,30' : '10,20';
  return { type: 'pool.set', siteId, poolId: pool.id, from: { vlans: pool.vlans }, to: { vlans } };
});
const ssids: fc.Arbitrary<Edit> = fc
  .tuple(nth(2), oneOf('Decks', ...names), yes, yes)
  .map(([i, segment, clients, own]) => (now) => {
    const ssid = now.estate.ssids[i];
    if (!ssid) return null;
    const { isolation = null, byClass = null } = ssid;
    const from = { segment: ssid.segment, isolation, byClass };
    return { type: 'ssid.set', ssidId: ssid.id, from, to: { segment, isolation: { clients }, byClass: own || null } };
  });
const classes: fc.Arbitrary<Edit> = fc.tuple(oneOf(...names), nth(3)).map(([segment, last]) => (now) => {
  const [one] = now.estate.classes ?? [];
  const members = [{ mac: `02:1a:00:00:00:0${last}`, name: 'Scanner' }];
  const reach = { kind: 'estate' as const };
  if (!one)
    return { type: 'class.add', accessClass: { id: sampleId(8, 0), name: 'Scanners', segment, members, reach } };
  const { segment: was, members: before } = one;
  return { type: 'class.set', classId: one.id, from: { segment: was, members: before }, to: { segment, members } };
});
const rules: fc.Arbitrary<Edit> = fc
  .tuple(END, END, SERVICE, oneOf('allow' as const, 'deny' as const), oneOf('site', 'before', 'after'), nth(9))
  .map(([from, to, services, verdict, book, number]) => (now) => {
    const of = book === 'site' ? { siteId } : { book: book as 'before' | 'after' };
    const has = { site: here(now).rules, before: now.estate.rulesBefore, after: now.estate.rulesAfter }[book] ?? [];
    if (has.length > 2) return { type: 'rule.remove', ruleIds: [has[0]!.id], ...of };
    const rule = { id: `${book} ${number}`, verdict, from: readEnds(from), to: readEnds(to) };
    return { type: 'rule.add', rules: [{ ...rule, services: readServices(services).services }], behind: null, ...of };
  });
const sets: fc.Arbitrary<Edit> = nth(9).map((last) => (now) => {
  const set = here(now).sets?.[0];
  const addresses = [`10.1.20.${last + 1}`];
  if (!set) return { type: 'set.add', siteId, set: { id: sampleId(7, 9), name: 'Hosts', addresses } };
  return { type: 'set.set', siteId, setId: set.id, from: { addresses: set.addresses ?? [] }, to: { addresses } };
});
const guarantees: fc.Arbitrary<Edit> = fc.tuple(END, END).map(([from, to]) => (now) => {
  const [one] = here(now).guarantees ?? [];
  if (one) return { type: 'guarantee.remove', siteId, guaranteeId: one.id };
  const services = readServices('any').services;
  const guarantee = { id: sampleId(7, 8), kind: 'never' as const, from: readEnds(from), to: readEnds(to), services };
  return { type: 'guarantee.add', siteId, guarantee };
});
const controller: fc.Arbitrary<Edit> = nth(3).map((last) => (now) => {
  return { type: 'controller.set', from: now.estate.controller ?? [], to: [`203.0.113.${200 + last}`] };
});

/** Any edit of a site or of what it shares. */
export const anyEdit = fc.oneof(
  segments,
  switches,
  exceptions,
  ports,
  askingPorts,
  secured,
  duties,
  pools,
  ssids,
  classes,
  radios,
  bands,
  mesh,
  uplinks,
  leaving,
  courses,
  publications,
  routes,
  translations,
  rules,
  sets,
  guarantees,
  controller,
);

/** An intent after some edits, each made of what was there then; those that do not fit are left out. */
export function edited(intent: Intent, edits: readonly Edit[]): Intent {
  let now = intent;
  for (const edit of edits) {
    const operation = edit(now);
    const outcome = operation && apply(now, operation, (id) => roster.find((each) => each.id === id));
    if (outcome?.ok) now = outcome.intent;
  }
  return now;
}
