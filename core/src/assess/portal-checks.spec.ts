import { expect, test } from 'vitest';
import { NO_SPONSORS, termsVersion } from '../guests';
import { NEW_PORTAL, type Intent, type Operation, type Portal } from '../intent';
import { readTimes } from '../rules';
import { applied, appliedWith, sampleId, sampleSite } from '../testing';
import { consequencesOf, type GuestFacts } from '.';

const sample = sampleSite({ segments: 3, aps: 1 });
const [ssid] = sample.intent.estate.ssids;
const portal: Portal = { ...NEW_PORTAL, id: sampleId(9, 1), name: 'Passengers' };

const found = ({ estate, sites }: Intent, guests?: GuestFacts) =>
  consequencesOf({
    ...{ estate, site: sites.get(sample.site.id)!, roster: sample.roster, links: sample.links, told: {} },
    ...(guests ? { guests } : {}),
  }).findings.filter(({ code }) => code.startsWith('guests.'));
const hold: Operation = { type: 'ssid.set', ssidId: ssid!.id, from: { portal: null }, to: { portal: portal.id } };

test('a walled garden that lets a good part of the internet out is found where its portal holds guests, and mended', () => {
  const wide = { ...portal, garden: ['ferries.example', '*.example', '0.0.0.0/0'] };
  expect(found(applied(sample.intent, { type: 'portal.add', portal: wide }))).toEqual([]);
  const held = applied(sample.intent, { type: 'portal.add', portal: wide }, hold);
  const [finding] = found(held).filter(({ code }) => code === 'guests.garden-wide');
  expect(finding).toMatchObject({
    message: 'Guests of “Passengers” reach *.example and 1 more without signing in',
    place: { kind: 'portal', id: portal.id },
  });
  const mended = applied(held, ...finding!.mend!.operations);
  expect(mended.estate.portals![0]!.garden).toEqual(['ferries.example']);
  expect(found(mended).filter(({ code }) => code === 'guests.garden-wide')).toEqual([]);
});

test('guests of a portal who reach private space once they are let in are found, whatever their SSID asks for, and kept from it', () => {
  const held = applied(sample.intent, { type: 'portal.add', portal }, hold);
  const [finding] = found(held);
  expect(finding).toMatchObject({
    code: 'guests.reach-private',
    message: 'Guests who are let in on “SSID 1” reach private space',
    place: { kind: 'ssid', id: ssid!.id },
  });
  expect(found(applied(held, ...finding!.mend!.operations))).toEqual([]);
});

const facts: GuestFacts = { mail: true, texts: true, url: 'http://192.0.2.7:8084', easy: [], agreed: [] };
const codesOf = (fields: Partial<Portal>, guests: GuestFacts = facts, ...operations: Operation[]): string[] =>
  found(applied(sample.intent, { type: 'portal.add', portal: { ...portal, ...fields } }, hold, ...operations), guests)
    .map(({ code }) => code)
    .filter((code) => code !== 'guests.reach-private');

test('a portal at which somebody has to say yes and nobody may is found; other ways in are left by the mend', () => {
  const ways = ['code', 'sponsor'] as const;
  const held = applied(sample.intent, { type: 'portal.add', portal: { ...portal, ways } }, hold);
  const [finding] = found(held, facts).filter(({ code }) => code === 'guests.sponsors-none');
  expect(finding!.severity).toBe('error');
  expect(applied(held, ...finding!.mend!.operations).estate.portals![0]!.ways).toEqual(['code']);
  expect(codesOf({ ways, sponsors: { ...NO_SPONSORS, domains: ['skerrow.example'] } })).toEqual([]);
  expect(codesOf({ ways, sponsors: NO_SPONSORS })).toEqual(['guests.sponsors-none']);
});

test('a portal that would send what cannot be sent is found, by what is missing', () => {
  const none = { ...facts, mail: false, texts: false };
  expect(codesOf({ ways: ['mail'] }, none)).toEqual(['guests.cannot-send']);
  expect(codesOf({ ways: ['mail'] }, { ...facts, texts: false })).toEqual([]);
  expect(codesOf({ ways: ['phone'] }, { ...facts, texts: false })).toEqual(['guests.cannot-send']);
  expect(codesOf({ ways: ['accept', 'code'] }, none)).toEqual([]);
});

test('codes that are guessed too soon, and guests who agreed to other terms, are found at their portal alone', () => {
  const easy = [{ portalId: portal.id, days: 3 }];
  expect(codesOf({ ways: ['code'] }, { ...facts, easy })).toEqual(['guests.codes-easy']);
  expect(codesOf({ ways: ['accept'] }, { ...facts, easy })).toEqual([]);
  expect(codesOf({ ways: ['code'] }, { ...facts, easy: [{ portalId: sampleId(9, 2), days: 3 }] })).toEqual([]);
  const words = { en: { title: '', text: '', terms: 'Be kind.', news: '' } };
  const agreed = (terms: string) => ({ ...facts, agreed: [{ portalId: portal.id, terms }] });
  const now = termsVersion({ ...portal, words }, 'en');
  expect(codesOf({ agree: true, words }, agreed('0123456789ab'))).toEqual(['guests.terms-changed']);
  expect(codesOf({ agree: true, words }, agreed(now))).toEqual([]);
  expect(codesOf({ words }, agreed('0123456789ab'))).toEqual([]);
});

test('names and passwords that pass in the clear, or that no server is there to know, are found at a portal that asks for them', () => {
  const ways = ['accept', 'user'] as const;
  const secure = { ...facts, url: 'https://guests.skerrow.example' };
  expect(codesOf({ ways }, facts)).toEqual(['guests.passwords-plain']);
  expect(codesOf({ ways }, secure)).toEqual([]);
  expect(codesOf({ ways: ['accept'], users: 'servers' }, facts)).toEqual([]);
  expect(codesOf({ ways, users: 'servers' }, secure)).toEqual(['guests.servers-none']);
  const held = applied(sample.intent, { type: 'portal.add', portal: { ...portal, ways, users: 'servers' } }, hold);
  for (const [code, guests] of [
    ['guests.servers-none', secure],
    ['guests.passwords-plain', facts],
  ] as const) {
    const { mend } = found(held, guests).find((each) => each.code === code)!;
    expect(found(applied(held, ...mend!.operations), guests).map((each) => each.code)).not.toContain(code);
  }
});

test('hours of an SSID and its portal that never meet are found, and mended by letting guests in at all hours', () => {
  const hours = (id: number, name: string, text: string) =>
    ({ type: 'hours.add', hours: { id: sampleId(9, id), name, times: readTimes(text)! } }) as const;
  const sent: Operation = {
    ...{ type: 'ssid.set', ssidId: ssid!.id, from: { hours: null }, to: { hours: sampleId(9, 11) } },
  };
  const day = hours(11, 'Day', 'Mon-Fri 08:00-18:00');
  const held = (text: string) =>
    applied(
      ...[sample.intent, day, hours(12, 'Guests', text), sent],
      { type: 'portal.add', portal: { ...portal, hours: sampleId(9, 12) } },
      hold,
    );
  const apart = (intent: Intent) => found(intent, facts).filter(({ code }) => code === 'guests.hours-apart');
  expect(apart(held('Mon-Fri 17:30-20:00'))).toEqual([]);
  const never = held('Mon-Fri 18:00-20:00');
  const [finding] = apart(never);
  expect(finding).toMatchObject({ severity: 'error', reason: expect.stringContaining('Day (Mon-Fri 08:00-18:00)') });
  const mended = applied(never, ...finding!.mend!.operations);
  expect([apart(mended), mended.estate.portals![0]!.hours ?? null]).toEqual([[], null]);
});

test('a page that guests sign in at and the rules keep them from is found, and not where a rule lets them', () => {
  const rule = (id: number, verdict: 'allow' | 'deny', text: string, ports?: string[]): Operation => ({
    ...{ type: 'rule.add', siteId: sample.site.id, behind: null },
    rules: [
      {
        ...{ id: sampleId(9, id), verdict, from: [{ kind: 'any' }], to: [{ kind: 'addresses', text }] },
        services: ports ? [{ protocol: 'tcp', ports }] : [{ protocol: 'any' }],
      },
    ],
  });
  expect(codesOf({}, facts)).toEqual([]);
  expect(codesOf({}, facts, rule(3, 'deny', '192.0.2.0/24'))).toEqual(['guests.portal-stopped']);
  const through = [rule(3, 'deny', '192.0.2.0/24'), rule(4, 'allow', '192.0.2.7', ['8084'])];
  expect(codesOf({}, facts, ...through)).toEqual([]);
  expect(codesOf({}, { ...facts, url: 'http://192.0.2.7' }, ...through)).toEqual(['guests.portal-stopped']);
  // By a name alone nobody knows where it is; of a trial on one machine nothing follows.
  for (const url of ['https://guests.skerrow.example', 'http://127.0.0.1:8084', ''])
    expect(codesOf({}, { ...facts, url }, rule(3, 'deny', '0.0.0.0/0'))).toEqual([]);
});

test('what is wrong with a portal is found where ports alone lead to it', () => {
  const deviceId = sample.roster.find(({ model }) => model.startsWith('SW'))!.id;
  const from = sample.site.ports[deviceId]?.['4'] ?? null;
  const lead: Operation = {
    ...{ type: 'port.set', siteId: sample.site.id, deviceId, port: '4', from, to: { portal: portal.id } },
  };
  const nobody: Portal = { ...portal, ways: ['code', 'sponsor'] };
  const held = appliedWith(sample.roster, sample.intent, { type: 'portal.add', portal: nobody }, lead);
  const findings = found(held, facts);
  expect(findings.map(({ code }) => code)).toContain('guests.sponsors-none');
  // Of those who are let in there, and the way to the page.
  const reaching = findings.find(({ code }) => code === 'guests.reach-private')!;
  expect(reaching).toMatchObject({ place: { kind: 'port', id: deviceId, port: '4' } });
  const mended = appliedWith(sample.roster, held, ...reaching.mend!.operations);
  expect(found(mended, facts).map(({ code }) => code)).not.toContain('guests.reach-private');
  const deny: Operation = {
    ...{ type: 'rule.add', siteId: sample.site.id, behind: null },
    rules: [
      {
        id: sampleId(8, 1),
        verdict: 'deny',
        from: [{ kind: 'any' }],
        to: [{ kind: 'any' }],
        services: [{ protocol: 'any' }],
        comment: '',
      },
    ],
  };
  expect(found(appliedWith(sample.roster, held, deny), facts).map(({ code }) => code)).toContain(
    'guests.portal-stopped',
  );

  // A device of ours is no guest.
  const [taken] = sample.links.flatMap(({ a, b }) => [a, b]).filter((end) => end.deviceId === deviceId);
  const there = sample.site.ports[deviceId]?.[taken!.port] ?? null;
  const at = { siteId: sample.site.id, deviceId, port: taken!.port };
  const onDevice: Operation = { type: 'port.set', ...at, from: there, to: { ...there, portal: portal.id } };
  const wrong = appliedWith(sample.roster, sample.intent, { type: 'portal.add', portal }, onDevice);
  const [idle] = found(wrong).filter(({ code }) => code === 'guests.port-taken');
  expect(idle).toMatchObject({ place: { kind: 'port', port: taken!.port } });
  expect(found(appliedWith(sample.roster, wrong, ...idle!.mend!.operations))).toEqual([]);
});

test('a portal whose guests have an account nowhere is found; the other ways in are left by the mend', () => {
  expect(codesOf({ ways: ['account'] })).toEqual(['guests.account-none']);
  const held = applied(sample.intent, { type: 'portal.add', portal: { ...portal, ways: ['accept', 'account'] } }, hold);
  const [finding] = found(held, facts).filter(({ code }) => code === 'guests.account-none');
  expect(applied(held, ...finding!.mend!.operations).estate.portals![0]!.ways).toEqual(['accept']);
});
