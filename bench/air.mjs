// What a client is predicted to get beside what it gets when every frame is played; and a plan of channels for a large site.
import { register } from 'tsx/esm/api';
import { figure, percentile } from './figures.mjs';

const [CELLS, SECONDS, APS] = [200, 5, 200];
const BAND = '5';
/** Strangers are heard at no less than this in dBm, of each 20 MHz. */
const HEARD = -82;

export async function benchAir() {
  register();
  const { predictedSpeed } = await import('@iron-lattice/core/radio');
  const { Medium } = await import('../fleet/src/air/medium.ts');
  const { pathLoss } = await import('../fleet/src/air/path-loss.ts');
  const { Seeded } = await import('../fleet/src/air/seeded.ts');
  const errors = [];
  const began = performance.now();
  for (let n = 0; n < CELLS; n++) {
    const { stations, bulk, loads, at, primary, rivals } = cellOf(new Seeded(n + 1), n);
    const loss = (a, b) => pathLoss(BAND, at.get(a.name), at.get(b.name));
    const [ap, client] = stations;
    const others = loads.flatMap(({ from, share }) => {
      const stranger = stations.find(({ name }) => name === from);
      const heard = stranger.power - loss(stranger, ap) - 10 * Math.log10(stranger.parts.length);
      return heard < HEARD ? [] : [{ parts: stranger.parts.map((part) => ap.parts.indexOf(part)), share }];
    });
    const width = 20 * ap.parts.length;
    const signal = ap.power - loss(ap, client);
    const predicted = predictedSpeed({ phy: 'HE', maxNss: 2, band: BAND, width, signal, primary, others, rivals });
    const [got] = new Medium(BAND, stations, loss, [...bulk, ...loads], n).play(SECONDS).speeds;
    if (got > 1) errors.push(Math.abs(predicted / got - 1));
  }
  const percent = (share) => `${(100 * percentile(errors, share)).toFixed(0)} %`;
  figure(`speed predicted beside played, ${errors.length} cells: error, median`, percent(0.5), '15 % or less');
  figure('the same: of nine in ten; the worst', `${percent(0.9)}; ${percent(1)}`, '35 % or less');
  figure('a cell played', `${((performance.now() - began) / CELLS / SECONDS).toFixed(0)} ms a second of air`, '–');
  await planned();
}

/** An AP and its client, up to three strangers on parts of its channel, and now and then a neighbour that always sends. */
function cellOf(random, n) {
  const count = 2 ** random.below(4);
  const parts = Array.from({ length: count }, (_, i) => 5180 + 20 * i);
  const primary = random.below(count);
  const at = new Map();
  const stations = [];
  const put = (name, far, more) => {
    at.set(name, { name, at: far === 0 ? [0, 0, 3] : [random.next() * far, random.next() * far, 1.5] });
    stations.push({ name, parts, primary, power: 20, phy: 'HE', streams: 2, ...more });
    return name;
  };
  const bulk = [{ kind: 'bulk', from: put(`ap${n}`, 0), to: put(`client${n}`, 20, { power: 17 }) }];
  const loads = Array.from({ length: random.below(4) }, (_, i) => {
    const wide = Math.min(2 ** random.below(3), count);
    const first = Math.floor(random.below(count) / wide) * wide;
    const theirs = { parts: parts.slice(first, first + wide), primary: 0 };
    const [from, to] = [put(`stranger${n}-${i}`, 25, theirs), put(`theirs${n}-${i}`, 25, theirs)];
    return { kind: 'load', from, to, share: 0.05 + random.next() * 0.25 };
  });
  const rivals = random.below(3) === 0 ? 1 : 0;
  if (rivals > 0) bulk.push({ kind: 'bulk', from: put(`rival${n}`, 20), to: put(`its${n}`, 20, { power: 17 }) });
  return { stations, bulk, loads, at, primary, rivals };
}

/** Channels, width and powers for APs on a floor, on each of three bands, two side by side as the controller does it. */
async function planned() {
  const { planBand } = await import('@iron-lattice/core/wireless');
  const { USUAL_BANDS } = await import('@iron-lattice/core/intent');
  const { Seeded } = await import('../fleet/src/air/seeded.ts');
  const random = new Seeded(5);
  const places = Array.from({ length: APS }, () => [random.next() * 200, random.next() * 120]);
  const clients = places.map(() => Array.from({ length: random.below(12) }, () => -45 - random.below(30)));
  const took = [];
  const gaps = [];
  for (const [band, width] of [
    ['2.4', 40],
    ['5', 80],
    ['6', 160],
  ]) {
    const losses = places.flatMap(([x, y], i) =>
      places.slice(0, i).flatMap(([u, v], j) => {
        const loss = 47 + 30 * Math.log10(Math.max(1, Math.hypot(x - u, y - v)));
        return loss < 112 ? [{ band, a: `ap${j}`, b: `ap${i}`, loss }] : [];
      }),
    );
    const radios = places.map((_, i) => {
      const sheet = { band, streams: 2, width };
      const heard = { networks: [], channels: [] };
      return {
        ...{ deviceId: `ap${i}`, name: `ap${i}`, sheet, on: true, now: null, stays: false, power: null },
        ...{ clients: clients[i], heard },
      };
    });
    const began = performance.now();
    const plan = planBand({ band, country: 'IE', policy: USUAL_BANDS[band], radios, losses, ours: [] });
    took.push(performance.now() - began);
    gaps.push(plan.cost === 0 ? 0 : (plan.cost - plan.bound) / plan.cost);
  }
  const all = took.reduce((sum, ms) => sum + ms, 0);
  // Two threads: the longest by itself, or two by two.
  const beside = Math.max(...took, all / 2);
  figure(`plan of ${APS} APs on three bands, one after the other`, `${(all / 1000).toFixed(1)} s`, '–');
  figure('the same on two threads, as the controller does it', `${(beside / 1000).toFixed(1)} s`, '2 s or less');
  figure(
    'the same: gap to what no plan can go below',
    gaps.map((gap) => `${(100 * gap).toFixed(0)} %`).join(', '),
    '–',
  );
}
