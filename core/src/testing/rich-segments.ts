import type { Segment } from '../intent';
import { randomFrom } from '../base';
import { sampleId, sampleSegment } from './sample-site';

/** Segments that say everything a segment can say, by chance; all of them free of flaws. */
export function richSegments(seed: number, count: number): Segment[] {
  const random = randomFrom(seed);
  const chance = (percent: number): boolean => random(100) < percent;
  return Array.from({ length: count }, (_, i): Segment => {
    const plain = sampleSegment(i);
    const base = plain.subnet.replace(/0\/24$/, '');
    const mac = (n: number): string =>
      `02:00:00:00:${i.toString(16).padStart(2, '0')}:${n.toString(16).padStart(2, '0')}`;
    return {
      ...plain,
      name: chance(20) ? `-${plain.name}; "quoted", odd` : plain.name,
      ...(chance(50) ? { domain: `s${i}.skerrow.example` } : {}),
      ...(chance(50) ? { purpose: 'For people; and “things”, =odd' } : {}),
      ...(chance(50)
        ? {
            v6: {
              prefix: `2001:db8:0:${(i + 1).toString(16)}::/64`,
              gateway: `2001:db8:0:${(i + 1).toString(16)}::1`,
              ...(chance(50)
                ? { mode: chance(50) ? ('slaac' as const) : ('stateless' as const) }
                : {
                    mode: 'stateful' as const,
                    first: `2001:db8:0:${(i + 1).toString(16)}::100`,
                    last: `2001:db8:0:${(i + 1).toString(16)}::1ff`,
                  }),
            },
          }
        : {}),
      addresses: chance(15)
        ? null
        : {
            first: `${base}50`,
            last: `${base}149`,
            leaseSeconds: 600 + random(80_000),
            ...(chance(50) ? { also: [{ first: `${base}170`, last: `${base}${171 + random(60)}` }] } : {}),
            ...(chance(50) ? { exclude: [{ first: `${base}60`, last: `${base}${60 + random(40)}` }] } : {}),
            ...(chance(50)
              ? {
                  reservations: Array.from({ length: 1 + random(4) }, (_each, n) => ({
                    mac: mac(n),
                    address: `${base}${20 + n}`,
                    name: chance(50) ? 'Printer; by the \\ door' : '',
                  })),
                }
              : {}),
            ...(chance(50) ? { dns: ['192.0.2.53', `${base}2`] } : {}),
            ...(chance(30) ? { route: chance(50) ? 'none' : `${base}2` } : {}),
            ...(chance(30) ? { ntp: ['192.0.2.123'] } : {}),
            ...(chance(50)
              ? {
                  options: [
                    { code: 43, value: '0x0104c0000201' },
                    { code: 66, value: 'boot;server=x' },
                    { code: 150, value: '192.0.2.9, 192.0.2.10' },
                  ],
                }
              : {}),
            ...(chance(20) ? { from: { kind: 'relay' as const, server: '192.0.2.67' } } : {}),
            ...(chance(10) ? { from: { kind: 'switch' as const, deviceId: sampleId(3, 0), address: `${base}3` } } : {}),
          },
    };
  });
}
