// Findings of one large site: 60 segments, 40 switches of 48 ports, 200 APs. Cold, and after one edit.
import { register } from 'tsx/esm/api';
import { figure, percentile } from './figures.mjs';

const EDITS = 40;

export async function benchStrands() {
  register();
  const { consequencesOf, findingsOf } = await import('@iron-lattice/core/assess');
  const { apply } = await import('@iron-lattice/core/intent');
  const { sampleSite } = await import('@iron-lattice/core/testing');
  const sample = sampleSite({ segments: 60, aps: 200, switches: 40, size: 'large', holes: 12 });
  const input = { estate: sample.intent.estate, site: sample.site, roster: sample.roster, links: sample.links };
  const time = (act) => {
    const began = performance.now();
    act();
    return performance.now() - began;
  };
  for (let i = 0; i < 3; i++) consequencesOf({ ...fresh(input), told: {} }); // the compiler's warm-up
  const cold = Array.from({ length: 9 }, () => time(() => findingsOf(fresh(input))));
  const of = '60 segments, 40 × 48 ports, 200 APs';
  figure(`findings of ${of}, cold`, `${percentile(cold, 0.5).toFixed(0)} ms`, '150 ms or less');

  let intent = sample.intent;
  const lookup = (id) => sample.roster.find((device) => device.id === id);
  const times = [];
  for (let i = 0; i < EDITS; i++) {
    const device = sample.roster.find((each) => each.name === `x-sw-${String((i % 40) + 1).padStart(2, '0')}`);
    const [port, entry] = Object.entries(intent.sites.get(sample.site.id).ports[device.id])[20 + (i % 20)];
    const to = { ...entry, untagged: sample.site.segments[(i * 7) % 60].id };
    const edit = { type: 'port.set', siteId: sample.site.id, deviceId: device.id, port, from: entry, to };
    times.push(
      time(() => {
        const result = apply(intent, edit, lookup);
        if (!result.ok) throw new Error(result.flaws[0].message);
        ({ intent } = result);
        findingsOf({ ...input, estate: intent.estate, site: intent.sites.get(sample.site.id) });
      }),
    );
  }
  figure('the same after one edit, p50', `${percentile(times, 0.5).toFixed(1)} ms`, '30 ms or less');
  figure('the same after one edit, worst', `${percentile(times, 1).toFixed(1)} ms`, '–');
  const whole = Array.from({ length: 5 }, () => time(() => consequencesOf({ ...fresh(input), told: {} })));
  figure('with grid, hashes and differences, cold', `${percentile(whole, 0.5).toFixed(0)} ms`, '–');
}

/** The same values in new objects, so that nothing remembered by object helps. */
const fresh = (input) => structuredClone(input);
