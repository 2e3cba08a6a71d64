import fc from 'fast-check';
import { expect, test } from 'vitest';
import { PORT_ASKS, type ClassDocument, type PortDocument } from '../document';
import { entersPort, fitsPort, type PortTried } from '.';

const tills: ClassDocument = { id: 't', name: 'Tills', vlan: 20, members: [] };
const phones: ClassDocument = { id: 'p', name: 'Phones', vlan: 40, members: [] };
const nowhere: ClassDocument = { id: 'n', name: 'Nowhere', vlan: null, members: [] };
const port = (change: Partial<PortDocument> = {}): PortDocument => ({
  ...{ name: '7', untagged: null, tagged: [], auth: '802.1X-mac' as const, ...change },
});
const FALLS = { guest: 60, rejected: 61, unanswered: 62 };
type Tried = PortTried<string>;
const at = (of: PortDocument, dot1x: Tried, mac: Tried = { state: 'not', why: 'rejected' }) =>
  entersPort(of, { '802.1X': () => dot1x, mac: () => mac });
const known = (accessClass: ClassDocument | null): Tried => ({ state: 'in', accessClass });
const [MUTE, NOBODY]: [Tried, Tried] = [{ state: 'mute' }, { state: 'unanswered', why: 'nobody' }];
const no = (why: string): Tried => ({ state: 'not', why });

test('the first way that knows a client counts, in the order of the port', () => {
  expect(at(port(), known(tills), known(phones))).toEqual({ vlan: 20, accessClass: tills, way: '802.1X' });
  expect(at(port({ auth: 'mac-802.1X' }), known(tills), known(phones))).toMatchObject({ vlan: 40, way: 'mac' });
  expect(at(port(), MUTE, known(tills))).toMatchObject({ vlan: 20, way: 'mac' });
  expect(at(port({ auth: '802.1X' }), MUTE, known(tills))).toEqual({ vlan: null, why: 'mute' });
  expect(at(port({ auth: 'mac' }), known(tills), no('rejected'))).toEqual({ vlan: null, why: 'rejected' });
  expect(entersPort(port({ auth: undefined as never, untagged: 10 }), {} as never)).toEqual({ vlan: 10 });
});

test('whom none knows falls to the segment that the port has for such, or is not let in', () => {
  const falls = port({ ...FALLS });
  expect(at(falls, MUTE)).toEqual({ vlan: 60, fell: 'guest', why: 'mute' });
  expect(at(falls, no('untrusted'))).toEqual({ vlan: 61, fell: 'rejected', why: 'untrusted' });
  expect(at(falls, NOBODY)).toEqual({ vlan: 62, fell: 'unanswered', why: 'nobody' });
  expect(at(falls, MUTE, NOBODY)).toMatchObject({ vlan: 62, fell: 'unanswered' });
  expect(at(port({ auth: 'mac', ...FALLS }), MUTE, no('unlisted'))).toMatchObject({ vlan: 61, why: 'unlisted' });
  expect(at(port(), NOBODY)).toEqual({ vlan: null, why: 'nobody' });
  // While it is being found out nobody is anywhere.
  expect(at(falls, { state: 'asking' })).toEqual({ vlan: null });
  expect(at(falls, MUTE, { state: 'asking' })).toEqual({ vlan: null });
});

test('a yes without a class is for the port’s own segment, and one whose class has none here lets nobody in', () => {
  expect(at(port({ untagged: 10 }), known(null))).toEqual({ vlan: 10, way: '802.1X' });
  expect(at(port(), known(null))).toEqual({ vlan: null, why: 'nothing' });
  expect(at(port({ ...FALLS }), known(nowhere))).toEqual({ vlan: null, accessClass: nowhere, why: 'segment' });
});

test('a desk phone tags its frames where the port has a segment for it, and has one beside it', () => {
  const desk = port({ hosts: 'phone', voice: 40 });
  expect(at(desk, MUTE, known(phones))).toMatchObject({ vlan: 40, tagged: true });
  expect(at(port({ voice: 40 }), MUTE, known(phones))).not.toHaveProperty('tagged');
  expect(fitsPort(desk, [], { tagged: true })).toBe(true);
  expect(fitsPort(desk, [{ tagged: true }], {})).toBe(true);
  expect(fitsPort(desk, [{ tagged: true }, {}], {})).toBe(false);
  expect(fitsPort(desk, [{ tagged: true }], { tagged: true })).toBe(false);
  expect(fitsPort({ hosts: 'one' }, [{}], {})).toBe(false);
  expect(fitsPort({}, [{}, {}], {})).toBe(true);
});

test('nobody is let in anywhere but where a class, the port, or one of its falls says', () => {
  const tried = fc.constantFrom<Tried>(known(tills), known(phones), known(null), MUTE, NOBODY, no('rejected'), {
    state: 'asking',
  });
  const vlan = fc.constantFrom(60, 61, 62, undefined);
  const record = fc.record({
    auth: fc.constantFrom(...PORT_ASKS),
    untagged: fc.constantFrom(10, null),
    guest: vlan,
    rejected: vlan,
    unanswered: vlan,
  });
  fc.assert(
    fc.property(record, tried, tried, ({ guest, rejected, unanswered, ...said }, dot1x, mac) => {
      const falls = Object.fromEntries(
        Object.entries({ guest, rejected, unanswered }).filter(([, value]) => value !== undefined),
      );
      const door = port({ ...said, ...falls });
      const found = at(door, dot1x, mac);
      const wholly = [null, 20, 40, door.untagged, ...Object.values(falls)];
      expect(wholly).toContain(found.vlan);
      if (found.fell) expect(found.vlan).toBe(door[found.fell]);
      if (found.vlan === null && dot1x.state !== 'asking' && mac.state !== 'asking') expect(found.why).toBeDefined();
    }),
  );
});
