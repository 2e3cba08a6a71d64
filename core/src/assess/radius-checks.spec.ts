import { expect, test } from 'vitest';
import type { PortAsks, SsidSecurity } from '../document';
import { apply, USUAL_SERVER, type Intent, type Operation, type RadiusServer, type SitePart } from '../intent';
import { readServices, type Rule } from '../rules';
import { applied, sampleId, sampleSite } from '../testing';
import { consequencesOf, type ConsequencesInput, type EndingCertificate, type ServerMethods } from '.';

const { intent, site, roster, links } = sampleSite({ segments: 3, aps: 1 });
const [switchId] = [sampleId(3, 0)];
const server = (n: number, change: Partial<RadiusServer> = {}): Operation => ({
  type: 'radius.add',
  radius: {
    ...USUAL_SERVER,
    ...{ id: sampleId(7, n), name: `Server ${n}`, address: `198.51.100.${90 + n}`, secret: { secret: sampleId(6, n) } },
    ...{ reach: { kind: 'estate' as const }, ...change },
  },
});
const CREW = {
  type: 'class.add' as const,
  accessClass: {
    id: sampleId(8, 0),
    name: 'Crew',
    segment: 'Segment 1',
    members: [],
    reach: { kind: 'estate' as const },
  },
};
/** A site at which port 4 of a switch asks. */
const asking = (part: SitePart): SitePart => ({
  ...part,
  ports: { ...part.ports, [switchId]: { ...part.ports[switchId], '4': { untagged: null, tagged: [], auth: 'mac' } } },
});
function entry(of: Intent, more: Partial<ConsequencesInput> = {}) {
  const part = asking(of.sites.get(site.id)!);
  const { findings } = consequencesOf({ estate: of.estate, site: part, roster, links, told: {}, ...more });
  return findings.filter(({ code }) => code.startsWith('entry.'));
}
const codes = (of: Intent, more: Partial<ConsequencesInput> = {}): string[] =>
  entry(of, more).map(({ code, place }) => (place.kind === 'radius' ? `${code} ${place.id.slice(-1)}` : code));

test('a port that asks lets nobody in until a class has somebody, or a server chooses one', () => {
  expect(codes(intent)).toEqual(['entry.nobody-known']);
  expect(codes(applied(intent, CREW))).toEqual(['entry.nobody-known']);
  expect(codes(applied(intent, server(0), server(1, { order: 2 })))).toEqual(['entry.nobody-known']);
  expect(codes(applied(intent, CREW, server(0), server(1, { order: 2 })))).toEqual([]);
  expect(codes(applied(intent, CREW, server(0, { macs: null }), server(1, { macs: null })))).toEqual([
    'entry.nobody-known',
  ]);
});

test('one server alone, one that is believed without proof, and a secret that is guessed first are told', () => {
  expect(codes(applied(intent, CREW, server(0)))).toEqual(['entry.server-alone 0']);
  const loose = applied(intent, CREW, server(0), server(1, { unsigned: true }));
  const [finding] = entry(loose);
  expect(finding).toMatchObject({ code: 'entry.server-unproven', place: { kind: 'radius', id: sampleId(7, 1) } });
  const mended = finding!.mend!.operations.reduce((now, operation) => {
    const result = apply(now, operation, () => undefined);
    if (!result.ok) throw new Error(result.flaws[0]!.message);
    return result.intent;
  }, loose);
  expect(codes(mended)).toEqual([]);
  const both = applied(intent, CREW, server(0), server(1));
  expect(codes(both, { common: [sampleId(6, 1)] })).toEqual(['entry.server-secret 1']);
  const alike = [[sampleId(6, 0), sampleId(6, 1), sampleId(6, 5)]];
  expect(codes(both, { alike })).toEqual(['entry.server-secret-shared 0']);
  expect(entry(both, { alike })[0]!.message).toBe('“Server 0” and “Server 1” have one secret');
  expect(codes(applied(intent, CREW, server(0), server(2)), { alike })).toEqual([]); // the other is no server any more
});

test('a controller that is asked after others is told, since their no is final, and the mend has it asked first', () => {
  const late = applied(intent, CREW, server(0), server(1, { own: true, address: '', order: 2 }));
  const [finding] = entry(late);
  expect(finding).toMatchObject({ code: 'entry.own-late', place: { kind: 'radius', id: sampleId(7, 1) } });
  const mended = apply(late, finding!.mend!.operations[0]!, () => undefined);
  expect(mended.ok && codes(mended.intent)).toEqual([]);
  expect(codes(applied(intent, CREW, server(0), server(1, { own: true, address: '' })))).toEqual([]);
  // One that is not asked about MAC addresses is asked where somebody says who it is.
  const deaf = applied(intent, CREW, server(0, { macs: null }), server(1, { own: true, address: '', order: 2 }));
  expect(codes(deaf)).toEqual(['entry.server-alone 1']);
  const { id: ssidId, security, passphrase } = intent.estate.ssids[0]!;
  const to = { security: 'wpa3-enterprise', passphrase: null } as const;
  const asks = applied(deaf, { type: 'ssid.set', ssidId, from: { security, passphrase }, to });
  expect(codes(asks)).toEqual(['entry.own-late 1']);
});

test('what asks who somebody is lets nobody in while there is nobody to ask, and one of 192 bits while keys of 256 alone are made', () => {
  const enterprise = (security: SsidSecurity): Operation => {
    const { security: from, passphrase } = intent.estate.ssids[0]!;
    const ssidId = intent.estate.ssids[0]!.id;
    return { type: 'ssid.set', ssidId, from: { security: from, passphrase }, to: { security, passphrase: null } };
  };
  const own = server(0, { own: true, address: '', macs: null });
  const judged = (shortKeys: boolean, ...operations: Operation[]) => {
    const of = applied(intent, ...operations);
    const part = of.sites.get(site.id)!;
    const { findings } = consequencesOf({ estate: of.estate, site: part, roster, links, told: {}, shortKeys });
    return findings.filter(({ code, severity }) => code.startsWith('entry.') && severity === 'error');
  };
  const found = (...operations: Operation[]) => judged(true, ...operations);
  expect(found(enterprise('wpa3-enterprise'))).toMatchObject([{ code: 'entry.nobody-asked', place: { kind: 'ssid' } }]);
  expect(found(enterprise('wpa3-enterprise'), own)).toEqual([]);
  const [finding] = found(enterprise('wpa3-enterprise-192'), own);
  expect(finding).toMatchObject({ code: 'entry.certificates-alone' });
  expect(judged(false, enterprise('wpa3-enterprise-192'), own)).toEqual([]);
  expect(found(enterprise('wpa3-enterprise-192'), own, finding!.mend!.operations[0]!)).toEqual([]);
  expect(found(enterprise('wpa3-enterprise-192'), own, server(1))).toEqual([]);
  // The same of a port.
  const port = (auth: PortAsks, of: Intent = intent) => {
    const part = of.sites.get(site.id)!;
    const ports = { ...part.ports, [switchId]: { ...part.ports[switchId], '4': { auth } } };
    const input = { estate: of.estate, site: { ...part, ports }, roster, links, told: {} };
    return consequencesOf(input).findings.filter(
      ({ code, severity }) => code.startsWith('entry.') && severity === 'error',
    );
  };
  expect(port('802.1X')).toMatchObject([{ code: 'entry.nobody-asked', place: { kind: 'port', port: '4' } }]);
  expect(port('802.1X-mac')).toMatchObject([{ code: 'entry.nobody-asked' }]);
  expect(port('802.1X', applied(intent, own))).toEqual([]);
});

test('a server that rules keep devices from is told with the rule, and one that nobody asks is not', () => {
  const stop: Rule = {
    ...{ id: sampleId(9, 0), verdict: 'deny', comment: 'no strangers' },
    ...{ from: [{ kind: 'segment', name: 'Management' }], to: [{ kind: 'addresses', text: '198.51.100.91' }] },
    services: readServices('udp 1800-1900').services,
  };
  const both = applied(intent, CREW, server(0), server(1));
  const stopped = { ...both, estate: { ...both.estate, rulesBefore: [stop] } };
  const [finding, ...more] = entry(stopped);
  expect(more).toEqual([]);
  expect(finding).toMatchObject({ code: 'entry.server-stopped', severity: 'error', place: { id: sampleId(7, 1) } });
  expect(finding!.reason).toContain('no strangers');
  const elsewhere = applied(intent, CREW, server(0), server(2), server(1, { macs: null }));
  expect(codes({ ...elsewhere, estate: { ...elsewhere.estate, rulesBefore: [stop] } })).toEqual([]);
});

test('a gateway that is to ask for the others and is not there is told, and mended', () => {
  const through = applied(intent, CREW, server(0, { source: 'gateway' }), server(1));
  expect(codes(through)).toEqual([]);
  const without = roster.filter(({ model }) => !model.startsWith('GW'));
  const left = links.filter(({ a, b }) => [a, b].every(({ deviceId }) => without.some(({ id }) => id === deviceId)));
  const found = entry(through, { roster: without, links: left });
  expect(found.map(({ code }) => code)).toEqual(['entry.server-through-nobody']);
  expect(found[0]!.mend!.operations).toMatchObject([{ type: 'radius.set', to: { source: 'device' } }]);
});

test('a class that a server names and that is not here is told, until the draft has it', () => {
  const strangers = [{ server: 'Server 0', said: ' crew', count: 2 }];
  const two = [server(0), server(1)];
  const without = applied(intent, ...two);
  const told = (of: Intent) => entry(of, { strangers }).filter(({ code }) => code === 'entry.unknown-class');
  expect(told(without)).toMatchObject([
    {
      place: { kind: 'radius', id: sampleId(7, 0) },
      reason: expect.stringMatching(/^2 clients are let in nowhere/) as string,
    },
  ]);
  expect(told(applied(intent, ...two, CREW))).toEqual([]);
  const elsewhere = {
    ...CREW,
    accessClass: { ...CREW.accessClass, reach: { kind: 'sites' as const, siteIds: [sampleId(9, 9)] } },
  };
  expect(told(applied(intent, ...two, elsewhere as Operation))[0]!.reason).toMatch(/does not reach/);
  // Of a server that is gone from the draft nothing is said.
  expect(told(applied(intent, server(1)))).toEqual([]);
});

test('a method that a server does not take, and a password that is handed over without need, are told at it', () => {
  const own = server(1, { own: true, address: '', macs: null });
  const told = (...methods: Partial<ServerMethods>[]) =>
    entry(applied(intent, CREW, server(0), own), {
      methods: methods.map((each) => ({ server: 'Server 0', refused: 0, pap: 0, other: null, ...each })),
    })
      .filter(({ code }) => ['entry.method-not-offered', 'entry.pap-unneeded'].includes(code))
      .map(({ code, message, place }) => [code, message, place.id]);
  const at = sampleId(7, 0);
  expect(told({ refused: 2 })).toEqual([
    ['entry.method-not-offered', `“Server 0” does not take the method of 2 clients at ${site.name}`, at],
  ]);
  const other = { method: 'peap' as const, count: 3 };
  expect(told({ pap: 1, other })).toEqual([
    ['entry.pap-unneeded', `“Server 0” is told the password of one client at ${site.name} (PAP)`, at],
  ]);
  expect(told({ pap: 1 }, { other }, { server: 'gone', refused: 2, pap: 2, other })).toEqual([]);
  // This controller keeps a hash: it has to be told the password.
  expect(told({ server: 'Server 1', pap: 4, other })).toEqual([]);
  expect(told({ server: 'Server 1', refused: 1 })[0]![2]).toBe(sampleId(7, 1));
});

test('an authority that ends within 30 days, ended or is none is told at its server, where that reaches', () => {
  const radiusId = sampleId(7, 0);
  const told = (of: object) =>
    entry(applied(intent, CREW, server(0), server(1)), {
      ending: [{ radiusId, day: '2026-12-24', over: false, ...of }],
    });
  expect(told({})).toMatchObject([{ code: 'entry.authority-ends', severity: 'warning', place: { id: radiusId } }]);
  expect(told({ over: true })).toMatchObject([
    { severity: 'error', message: expect.stringMatching(/ended on 2026-12-24/) as string },
  ]);
  expect(told({ day: null })[0]!.message).toMatch(/no certificate that can be read/);
  expect(told({ radiusId: sampleId(7, 9) })).toEqual([]);
});

test('certificates that end are told where they matter: at the server that shows one, or at the controller that made it', () => {
  const { radius } = server(0) as Extract<Operation, { type: 'radius.add' }>;
  const own = { ...radius, own: true, address: '' };
  const quay = server(1, { address: 'quay.radius.internal' });
  const both = applied(intent, CREW, { type: 'radius.add', radius: own }, quay);
  const told = (certificates: readonly EndingCertificate[], of = both) =>
    entry(of, { certificates }).filter(({ code }) => code.includes('certificate'));
  const ends = { day: '2026-12-24', over: false };
  const shown = { ...ends, kind: 'shown' as const, radiusId: sampleId(7, 1), name: 'quay', seen: '2026-11-29' };
  expect(told([shown])).toMatchObject([
    { code: 'entry.server-certificate-ends', severity: 'warning', place: { id: sampleId(7, 1) } },
  ]);
  expect(told([{ ...shown, over: true }])[0]).toMatchObject({
    severity: 'error',
    message: expect.stringMatching(/ended on/) as string,
  });
  expect(told([{ ...shown, radiusId: sampleId(7, 9) }])).toEqual([]);
  const made = { ...ends, kind: 'servers' as const, count: 1 };
  expect(told([{ ...made, names: ['quay.radius.internal'] }])[0]!.place).toMatchObject({ id: sampleId(7, 1) });
  expect(told([{ ...made, names: ['mole.radius.internal'] }])[0]!.place).toMatchObject({ id: sampleId(7, 0) });
  const users = { ...ends, kind: 'users' as const };
  expect(told([{ ...users, names: ['marn.ellis'], count: 1 }])[0]!.message).toBe(
    'The certificate of marn.ellis ends on 2026-12-24',
  );
  const many = told([{ ...users, names: ['marn.ellis', 'jory.pell'], count: 40 }])[0]!;
  expect([many.message, many.reason]).toEqual([
    'Certificates of 40 users end within 30 days',
    expect.stringMatching(/^The first ends on 2026-12-24: marn\.ellis, jory\.pell and others\./),
  ]);
  // Where the controller is not asked, nobody gets in by them.
  expect(told([{ ...users, names: ['marn.ellis'], count: 1 }], applied(intent, CREW, quay))).toEqual([]);
});

test('what is doubtful of the directory is told where the controller is asked, and nowhere else', () => {
  const doubts = { passwords: true, anybody: true, clear: true };
  const { radius } = server(0) as Extract<Operation, { type: 'radius.add' }>;
  const own = { ...radius, own: true, address: '' };
  const asked = applied(intent, CREW, { type: 'radius.add', radius: own });
  const told = (of: typeof asked, directory: typeof doubts) =>
    entry(of, { directory }).filter(({ code }) => code.startsWith('entry.directory'));
  expect(told(asked, doubts).map(({ code }) => code)).toEqual([
    'entry.directory-clear',
    'entry.directory-rights',
    'entry.directory-anybody',
  ]);
  expect(told(asked, { passwords: false, anybody: false, clear: false })).toEqual([]);
  expect(told(applied(intent, CREW, server(1)), doubts)).toEqual([]);
});

test('an SSID whose keys servers are to name, where none is asked about MAC addresses, is told, and its mend keeps the keys here', () => {
  const was = intent.estate.ssids[0]!;
  const ring: Operation = {
    ...{ type: 'ssid.set', ssidId: was.id },
    from: { security: was.security, bands: was.bands, ring: null, keysAt: null },
    to: { security: 'wpa2-psk', bands: ['5'], ring: [], keysAt: 'servers' },
  };
  const ringed = (...more: Operation[]) => applied(intent, CREW, ring, ...more);
  const found = (of: Intent) => entry(of).filter(({ code }) => code === 'entry.nobody-asked');
  expect(found(ringed(server(0, { macs: 'none_lower' })))).toEqual([]);
  for (const without of [ringed(), ringed(server(0, { macs: null }))]) {
    const [finding] = found(without);
    expect(finding).toMatchObject({ severity: 'error', reason: expect.stringContaining('name the keys') as string });
    expect(found(applied(without, ...finding!.mend!.operations))).toEqual([]);
  }
});
