import { expect, test } from 'vitest';
import { resolve } from '..';
import type { ApDocument } from '../../document';
import { compileSite } from '../../rollout';
import { applied, sampleId, sampleSite } from '../../testing';
import { EXCEPTION_WORDS } from './exception';
import { EXCEPTABLE, type Ssid, type SsidException } from './ssid';

const sample = sampleSite({ segments: 3, aps: 1 });
const ssid = sample.intent.estate.ssids[0]!;
/** What the site’s AP is told of the SSID, where all have something and the site another. */
function told(shared: Partial<Ssid>, here: SsidException | null) {
  const set = (to: Partial<Ssid>) => ({ type: 'ssid.set' as const, ssidId: ssid.id, from: {}, to });
  const exceptions = here ? { [sample.site.id]: here } : { [sampleId(9, 9)]: { multicast: 'none' as const } };
  const { estate } = applied(sample.intent, set({ ...shared, exceptions }));
  const documents = [...compileSite(resolve(estate, sample.site), sample.roster).values()];
  const ap = documents.find((each): each is ApDocument => each.kind === 'ap')!;
  return ap.ssids.find(({ id }) => id === ssid.id)!;
}

test.each<[string, Partial<Ssid>, SsidException, object]>([
  ['a copy for each client where others send it as it comes', {}, { multicast: 'each' }, { multicast: 'each' }],
  ['what comes as it comes where others keep it off', { multicast: 'none' }, { multicast: null }, {}],
  ['steering where others do not', {}, { steer: true }, { steer: true }],
  ['no steering where others do', { steer: true }, { steer: false }, {}],
])('a site has %s', (_what, shared, here, said) => {
  const { multicast, steer } = told(shared, here);
  expect({ ...(multicast ? { multicast } : {}), ...(steer ? { steer } : {}) }).toEqual(said);
});

test('what another site has otherwise is nothing here, and each field has a word', () => {
  expect(told({ multicast: 'each' }, null).multicast).toBe('each');
  expect(new Set(EXCEPTABLE.map((field) => EXCEPTION_WORDS[field])).size).toBe(EXCEPTABLE.length);
});
