import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { USUAL_WATCH } from './watch';
import {
  downMs,
  rehearse,
  skewMs,
  Vrrp,
  type Advertisement,
  type Mishap,
  type PairSelf,
  type Rehearsed,
  type RehearsedGateway,
} from '.';

const seed = Number(process.env['SEED'] ?? 1);

/** Two routers on one wire, played in steps until a moment. */
class Wire {
  readonly routers: { readonly vrrp: Vrrp; on: boolean }[] = [];
  private readonly said: { readonly by: number; readonly advertisement: Advertisement }[] = [];
  whole = true;
  now = 0;

  add(priority: number, advert = 100): Vrrp {
    const by = this.routers.length;
    const vrrp = new Vrrp({ priority, advert, address: BigInt(by + 2) }, (advertisement) =>
      this.said.push({ by, advertisement }),
    );
    this.routers.push({ vrrp, on: true });
    return vrrp;
  }

  until(at: number): void {
    for (;;) {
      const due = this.routers.flatMap(({ vrrp }) => vrrp.due ?? []).filter((each) => each <= at);
      const next = Math.min(at, ...due);
      this.now = Math.max(this.now, next);
      for (const { vrrp } of this.routers) vrrp.pass(this.now);
      this.deliver();
      if (due.length === 0) return;
    }
  }

  deliver(): void {
    for (let one = this.said.shift(); one; one = this.said.shift())
      for (const [i, { vrrp, on }] of this.routers.entries())
        if (this.whole && on && i !== one.by) vrrp.hear(one.advertisement, this.now);
  }

  states = (): string => this.routers.map(({ vrrp }) => vrrp.state).join(' ');
}

describe('a virtual router (RFC 9568)', () => {
  test('waits three advertisements, and longer the lower its priority', () => {
    expect(skewMs(150, 100)).toBeCloseTo(414.06, 2);
    expect(skewMs(254, 100)).toBeCloseTo(7.81, 2);
    expect(downMs(150, 100)).toBeCloseTo(3414.06, 2);
    expect(downMs(100, 10)).toBeCloseTo(360.94, 2);
  });

  test('the higher priority routes, and takes over again; alike, whoever routes goes on', () => {
    const wire = new Wire();
    const [first, second] = [wire.add(200), wire.add(150)];
    second.start(0);
    wire.until(5000);
    expect(wire.states()).toBe('initialize active');
    first.start(wire.now);
    wire.until(10_000);
    expect(wire.states()).toBe('active backup');
    const alike = new Wire();
    alike.add(150).start(0);
    alike.until(5000);
    alike.add(150).start(alike.now);
    alike.until(20_000);
    expect(alike.states()).toBe('active backup');
  });

  test('one that steps down is followed at once, one that vanishes after its silence', () => {
    const wire = new Wire();
    const [first, second] = [wire.add(200), wire.add(150)];
    first.start(0);
    wire.until(4000);
    second.start(wire.now);
    wire.until(10_000);
    first.stop();
    wire.deliver();
    expect(second.due! - wire.now).toBeCloseTo(skewMs(150, 100), 6);
    first.start(wire.now);
    wire.until(20_000);
    expect(wire.states()).toBe('active backup');
    first.stop(true);
    wire.deliver();
    expect(second.due! - wire.now).toBeGreaterThan(2000);
    wire.until(wire.now + downMs(150, 100));
    expect(wire.states()).toBe('initialize active');
  });

  test('of two that do not hear each other both route, and one gives in once they do: of those alike the higher address', () => {
    for (const [a, b, states] of [
      [200, 150, 'active backup'],
      [150, 150, 'backup active'],
    ] as const) {
      const wire = new Wire();
      wire.whole = false;
      wire.add(a).start(0);
      wire.add(b).start(0);
      wire.until(10_000);
      expect(wire.states()).toBe('active active');
      wire.whole = true;
      wire.until(20_000);
      expect(wire.states()).toBe(states);
    }
  });

  test('whatever becomes of two that hear each other, one and only one routes once they had time', () => {
    const step = fc.record({
      ms: fc.integer({ min: 1, max: 9000 }),
      who: fc.nat(1),
      what: fc.constantFrom('off', 'on', 'low', 'high', 'cut', 'join'),
    });
    fc.assert(
      fc.property(fc.array(step, { maxLength: 12 }), fc.constantFrom(10, 100), (steps, advert) => {
        const wire = new Wire();
        for (const priority of [200, 150]) wire.add(priority, advert).start(0);
        for (const { ms, who, what } of steps) {
          wire.until(wire.now + ms);
          const router = wire.routers[who]!;
          const priority = who === 0 ? 200 : 150;
          if (what === 'off') {
            router.on = false;
            router.vrrp.stop(true);
          } else if (what === 'on') {
            router.on = true;
            router.vrrp.start(wire.now);
          } else if (what === 'low' || what === 'high')
            router.vrrp.be({ priority: what === 'low' ? priority - 100 : priority, advert, address: BigInt(who + 2) });
          else wire.whole = what === 'join';
        }
        wire.whole = true;
        wire.until(wire.now + 20_000);
        const on = wire.routers.filter(({ on }) => on);
        expect(on.filter(({ vrrp }) => vrrp.state === 'active')).toHaveLength(on.length > 0 ? 1 : 0);
      }),
      { seed, numRuns: 300 },
    );
  });
});

const alone = (id: string): Omit<RehearsedGateway, 'pair'> => ({
  id,
  uplinks: [{ port: 'WAN1', weight: 1, standby: null, watch: USUAL_WATCH, linked: true, delay: 10, loss: 0 }],
  rule: { begins: 'all', back: 0 },
  stay: true,
});
const self = (first: boolean, more: Partial<PairSelf> = {}): PairSelf => ({
  ...{ priority: first ? 200 : 150, lowered: first ? 100 : 50, tracks: ['WAN1'], any: false },
  ...{ address: first ? '10.1.1.2' : '10.1.1.3', ...more },
});
const first = (more: Partial<PairSelf> = {}): RehearsedGateway => ({
  ...alone('a'),
  pair: { own: self(true, more), other: self(false), gateway: alone('b'), first: true, advert: 100 },
});
const second: RehearsedGateway = {
  ...alone('b'),
  pair: { own: self(false), other: self(true), gateway: alone('a'), first: false, advert: 100 },
};
const off: Mishap = { what: 'off', from: 60, to: 200, gatewayId: 'a', port: '' };
const cut = (gatewayId: string, from: number): Mishap => ({ what: 'cut', from, to: null, gatewayId, port: 'WAN1' });
const whom = ({ turns }: Rehearsed): unknown => turns!.map(({ gatewayId }) => gatewayId);

describe('a takeover that is rehearsed', () => {
  test('without power of the first the second routes after its silence, and the first again', () => {
    const usual = rehearse(first(), [off], 400);
    expect(whom(usual)).toEqual(['a', null, 'b', 'a']);
    expect(usual.turns![1]!.to - 60).toBeCloseTo(2.914, 2);
    expect(usual.unrouted).toBeCloseTo(2.914, 2);
    expect(usual.longest).toBeCloseTo(2.914, 2);
    // It waits as long as any that stands by, and then takes over.
    expect(usual.turns![3]!.from).toBeGreaterThan(203);
    expect(usual.turns![3]!.from).toBeLessThan(204);
    const [best, worst] = (['best', 'worst'] as const).map((phase) => rehearse(first(), [off], 400, phase).longest);
    expect(best).toBeCloseTo(2.414, 2);
    expect(worst).toBeCloseTo(3.414, 2);
    // Sessions outside are known by another address then, there and back.
    expect(usual.broken).toBeCloseTo(2, 6);
    expect(usual.spans.some(({ used }) => used[0]?.port === 'b:WAN1')).toBe(true);
    // Of the other the same is told.
    expect(rehearse(second, [off], 400).turns).toEqual(usual.turns);
  });

  test('an uplink that is tracked and fails is taken over from, though the first has power', () => {
    const told = rehearse(first(), [cut('a', 60)], 300);
    expect(whom(told)).toEqual(['a', 'b']);
    expect(told.unrouted).toBe(0);
    expect(told.longest).toBeGreaterThan(2);
    expect(told.longest).toBeLessThan(4);
    const untracked = rehearse(first({ tracks: [] }), [cut('a', 60)], 300);
    expect(untracked.turns).toHaveLength(1);
    expect(untracked.longest).toBeCloseTo(240, 0);
  });

  test('where both lost what they track nobody hands over; without power of both nobody routes', () => {
    expect(rehearse(first(), [cut('b', 30), cut('a', 60)], 200).turns).toHaveLength(1);
    const dark = rehearse(first(), [off, { ...off, gatewayId: 'b' }], 300);
    expect(dark.unrouted).toBeGreaterThan(140);
    expect(dark.turns!.at(-1)!.gatewayId).toBe('a');
  });
});
