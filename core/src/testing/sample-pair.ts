import { usualPair, type Pair, type PairOperation, type RosterDevice } from '../intent';
import { sampleId, sampleSite, type SampleSite } from './sample-site';

/** A site with two gateways, both cabled to its switch. */
export interface SamplePair extends SampleSite {
  readonly first: RosterDevice;
  readonly second: RosterDevice;
  /** The edit that makes a pair of them. */
  readonly made: PairOperation;
}

/** Makes a site as `sampleSite` does, with a second gateway at the last port of its switch. */
export function samplePair(
  more: Partial<Pair> = {},
  options: Parameters<typeof sampleSite>[0] = { segments: 3, aps: 2 },
): SamplePair {
  const sample = sampleSite(options);
  const [first] = sample.roster;
  const second: RosterDevice = { ...first!, id: sampleId(2, 1), name: 'x-gw-02', serial: 'GW-0001' };
  const at = sample.roster.find(({ model }) => model.startsWith('SW'))!;
  const port = at.model === 'SW-48P' ? '50' : '26';
  const link = { a: { deviceId: second.id, port: '1' }, b: { deviceId: at.id, port } };
  const to: Pair = { ...usualPair(first!.id, second.id), ...more };
  return {
    ...sample,
    roster: [first!, second, ...sample.roster.slice(1)],
    links: [...sample.links, link],
    first: first!,
    second,
    made: { type: 'pair.set', siteId: sample.site.id, from: null, to },
  };
}
