import { expect, test } from 'vitest';
import type { AccessClass, Operation, Ssid } from '../intent';
import { applied, sampleId, sampleSite } from '../testing';
import { consequencesOf } from './consequences';
import { lostKeysOf, type KeyLead } from './lost-keys';

const { intent, site, roster, links } = sampleSite({ segments: 3, aps: 1 });
const [first] = intent.estate.ssids as [Ssid];
const ring: Operation = {
  type: 'ssid.set',
  ssidId: first.id,
  from: { security: first.security, passphrase: first.passphrase, bands: first.bands },
  to: { security: 'wpa2-psk', passphrase: null, bands: ['5'], ring: ['Segment 2'] },
};
const counts: Operation = { type: 'ssid.set', ssidId: first.id, from: { byClass: null }, to: { byClass: true } };
const divers: AccessClass = {
  ...{ id: sampleId(8, 0), name: 'Divers', segment: 'Segment 2', members: [], reach: { kind: 'estate' } },
};
const added: Operation = { type: 'class.add', accessClass: divers };
const renamed: Operation = { type: 'class.set', classId: divers.id, from: { name: 'Divers' }, to: { name: 'Hands' } };
const lead = (more: Partial<KeyLead>): KeyLead => ({
  ssidId: first.id,
  segment: null,
  accessClass: null,
  count: 1,
  ...more,
});
const TO_CLASS = lead({ accessClass: 'divers', count: 12 });

test.each<[string, readonly Operation[], KeyLead, object | null]>([
  ['nowhere in particular', [ring], lead({}), null],
  ['to a segment of their ring', [ring], lead({ segment: 'segment 2' }), null],
  [
    'to another segment',
    [ring],
    lead({ segment: 'Segment 3', count: 2 }),
    { count: 2, to: ['Segment 3'], uncounted: false },
  ],
  ['to a class that counts', [ring, counts, added], TO_CLASS, null],
  ['to a class that does not count', [ring, added], TO_CLASS, { count: 12, to: ['the class divers'], uncounted: true }],
  ['to a class that is gone', [ring, counts], TO_CLASS, { count: 12, uncounted: false }],
  ['to a class that is called otherwise', [ring, counts, added, renamed], TO_CLASS, { count: 12, uncounted: false }],
])('keys that lead %s', (_what, operations, one, lost) => {
  const { estate } = applied(intent, ...operations);
  expect(lostKeysOf(estate, [one])).toEqual(lost ? [expect.objectContaining({ ssidId: first.id, ...lost })] : []);
});

test('keys at servers, and of what is no ring, are none of it', () => {
  const away = applied(intent, ring, {
    type: 'ssid.set',
    ssidId: first.id,
    from: { keysAt: null },
    to: { keysAt: 'servers' },
  });
  expect([lostKeysOf(intent.estate, [TO_CLASS]), lostKeysOf(away.estate, [TO_CLASS])]).toEqual([[], []]);
});

test('they are told at the SSID, and one press lets classes count', () => {
  const found = (...operations: Operation[]) => {
    const of = applied(intent, ring, added, ...operations);
    const lostKeys = lostKeysOf(of.estate, [TO_CLASS]);
    const input = { estate: of.estate, site: of.sites.get(site.id)!, roster, links, told: {}, lostKeys };
    return consequencesOf(input).findings.filter(({ code }) => code === 'wireless.keys-nowhere');
  };
  const [finding] = found();
  expect(finding).toMatchObject({
    severity: 'error',
    message: '12 keys of “SSID 1” let nobody in',
    place: { id: first.id },
  });
  expect(found(...finding!.mend!.operations)).toEqual([]);
});
