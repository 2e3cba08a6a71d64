import fc from 'fast-check';
import { expect, test } from 'vitest';
import { parsePrefix } from '../address';
import { overlayLines, type GatewayDocument } from '../document';
import { resolve, type Operation } from '../intent';
import { compileSite } from '../rollout';
import { checkNetwork, classesOf, DISCARD, KeptTable, LOCAL, OpenTable } from '../routing';
import { appliedWith, sampleId, sampleMember, sampleSites } from '../testing';

const SITES = 6;
const sample = sampleSites({ sites: SITES, segments: 2 });
const { roster, siteIds } = sample;

/** Sites of which the first are hubs, each with its hubs in an order of its own, and routes that are said by hand. */
const estates = fc.integer({ min: 1, max: 3 }).chain((hubs) =>
  fc.record({
    hubs: fc.constant(hubs),
    orders: fc.array(fc.shuffledSubarray([...Array(hubs).keys()], { minLength: 1 }), {
      ...{ minLength: SITES - hubs, maxLength: SITES - hubs },
    }),
    leaves: fc.array(fc.constantFrom('here' as const, 'hub' as const), { minLength: SITES, maxLength: SITES }),
    said: fc.array(
      fc.record({
        at: fc.nat(SITES - 1),
        about: fc.nat(SITES - 1),
        length: fc.constantFrom(12, 20, 24, 26),
        way: fc.constantFrom('nowhere' as const, 'wan1' as const),
      }),
      { maxLength: 4 },
    ),
    down: fc.uniqueArray(fc.nat(SITES * SITES - 1), { maxLength: 12 }),
  }),
);

test('between joined sites nothing goes round, whatever hubs they have, whichever tunnels are down and whatever is said by hand', () => {
  let led = 0;
  fc.assert(
    fc.property(estates, ({ hubs, orders, leaves, said, down }) => {
      const join: Operation[] = [
        { type: 'overlay.set', from: null, to: { spans: ['10.0.0.0/8'] } },
        ...Array.from({ length: hubs }, (_, n): Operation => {
          const found = { wan1: `203.0.113.${n + 1}` };
          return { type: 'member.add', member: sampleMember(n, { role: 'hub', found }) };
        }),
        ...orders.map((order, i): Operation => {
          const hubIds = order.map((n) => sampleId(20, n));
          return { type: 'member.add', member: sampleMember(hubs + i, { hubs: hubIds, leaves: leaves[hubs + i]! }) };
        }),
      ];
      const intent = appliedWith(roster, sample.intent, ...join);
      const isUp = (a: number, b: number): boolean => !down.includes(Math.min(a, b) * SITES + Math.max(a, b));
      const place = (name: string): number => Number(name.slice('Site '.length));
      const tables = siteIds.map((id, n) => {
        const devices = roster.filter(({ siteId }) => siteId === id);
        const site = resolve(intent.estate, intent.sites.get(id)!);
        const gateway = compileSite(site, devices).get(devices[0]!.id) as GatewayDocument;
        const table = new KeptTable().of({
          links: gateway.interfaces.map(({ name, address }) => ({ name, address })),
          said: said.flatMap(({ at, about, length, way }, i) => {
            const other = intent.sites.get(siteIds[about]!)!.segments[1]!;
            const prefix = `${other.subnet.split('/')[0]}/${length}`;
            return at === n ? [{ name: `${i}`, prefix, ...(way === 'nowhere' ? {} : { by: way }) }] : [];
          }),
          overlay: overlayLines(gateway.overlay!),
          uplinks: [{ port: 'wan1', turn: 0 }],
          // A hub is asked whether it has a tunnel to the site itself.
          isUp: (peer, asks) => isUp(n, place(peer)) && (asks === undefined || isUp(place(peer), place(asks))),
        });
        const lines = table.filter(({ up }) => up !== false);
        led += lines.filter(({ peer }) => peer).length;
        const nextHop = ({ kind, nextHop: to, peer }: (typeof lines)[number]): string =>
          kind === 'overlay' ? (peer ?? DISCARD) : to === DISCARD ? DISCARD : LOCAL;
        return [`Site ${n}`, new OpenTable(lines.map((line) => ({ ...line, nextHop: nextHop(line) })))] as const;
      });
      const whole = new Map(tables);
      const all = classesOf(whole.values());
      const spans = parsePrefix('10.0.0.0/8')!;
      expect(all.some(({ first }) => first === spans.network)).toBe(true);
      expect(checkNetwork(whole, all).filter(({ kind }) => kind !== 'no-route')).toEqual([]);
    }),
    { numRuns: 150 },
  );
  expect(led).toBeGreaterThan(1000);
});
