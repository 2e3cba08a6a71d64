// The address plan of an estate: whether any prefixes overlap, and how that grows with the number of sites.
import { register } from 'tsx/esm/api';
import { figure, percentile } from './figures.mjs';

const SEGMENTS = 12;

export async function benchPlan() {
  register();
  const { parsePrefix } = await import('@iron-lattice/core/address');
  const { findOverlaps } = await import('@iron-lattice/core/lattice');
  const times = new Map();
  for (const sites of [100, 1000, 10_000]) {
    const texts = prefixes(sites);
    const measured = Array.from({ length: 9 }, () => {
      const began = performance.now();
      const pairs = findOverlaps(texts.map((text) => parsePrefix(text)));
      if (pairs.length !== 1) throw new Error(`${pairs.length} overlaps instead of the one that was put in`);
      return performance.now() - began;
    });
    times.set(sites, percentile(measured, 0.5));
    const aim = sites === 1000 ? '200 ms or less' : '–';
    figure(`overlap check, ${sites} sites × ${SEGMENTS} segments`, `${times.get(sites).toFixed(1)} ms`, aim);
  }
  const growth = (times.get(10_000) / times.get(1000)).toFixed(1);
  figure('ten times the sites cost', `× ${growth}`, 'near × 10');
}

/** A /28 for each segment, in no order, and one more that lies in another. */
function prefixes(sites) {
  const texts = [];
  for (let i = 0; i < sites * SEGMENTS; i++) {
    const value = ((i * 7919) % (sites * SEGMENTS)) * 16;
    texts.push(`10.${(value >> 16) & 255}.${(value >> 8) & 255}.${value & 255}/28`);
  }
  texts.push('10.0.0.4/30');
  return texts;
}
