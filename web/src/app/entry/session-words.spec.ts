import type { AccessClass } from '@iron-lattice/core/intent';
import type { SiteClient } from '@iron-lattice/core/lattice';
import { sessionsOf } from './session-words';

const client = (last: number, more: Partial<SiteClient> = {}): SiteClient => ({
  ...{ mac: `0e:c4:60:00:00:0${last}`, name: `thing-${last}`, vlan: 10, address: null, address6: null, leasedBy: null },
  ...{ at: { deviceId: 'sw', deviceName: 'bm-sw-01', port: `${last}` }, since: null, ...more },
});
const crew: AccessClass = {
  ...{ id: 'crew', name: 'Crew', segment: 'Crew', reach: { kind: 'estate' } },
  members: [
    { mac: '0e:c4:60:00:00:03', name: 'Pier gate' },
    { mac: '0e:c4:60:00:00:01', name: 'An old phone' },
  ],
};
/** One that its class lists. */
const listed = (last: number): SiteClient => client(last, { classId: 'crew' });
const named = { classId: 'crew', server: 'Quay' };

describe('sessionsOf', () => {
  const told = (...clients: SiteClient[]) =>
    sessionsOf(clients, [crew]).map(({ who, how, server, className }) => [who, how, server, className].join(' | '));

  it('tells who is here by who they are, and how that is known: what is said counts before what is listed', () => {
    const entered = { user: 'marn.ellis', method: 'peap', server: 'Quay' } as const;
    expect(told(client(1, { entered, named }), client(2, { named }), listed(3), client(4, { fell: 'guest' }))).toEqual([
      'Pier gate | MAC address, listed |  | Crew',
      'marn.ellis | PEAP with MS-CHAPv2 | Quay | Crew',
      'thing-2 | MAC address, known there | Quay | Crew',
      'thing-4 | does not say who it is |  | ',
    ]);
  });

  it('tells who has a class by a key, by a key that a server names, or as everybody else', () => {
    const classId = 'crew';
    expect(
      told(
        client(1, { classId, key: 'k' }),
        client(2, { classId, keyedBy: 'Quay' }),
        client(4, { classId }),
        client(5, { key: 'k' }),
      ),
    ).toEqual([
      'thing-1 | key of a ring |  | Crew',
      'thing-2 | key of a ring, named there | Quay | Crew',
      'thing-4 | as everybody else |  | Crew',
    ]);
  });

  it('leaves out who is nowhere, and whose place follows from nothing of theirs', () => {
    expect(told(client(5), client(6, { named, at: null }))).toEqual([]);
    expect(told(client(7, { name: '', named: { classId: 'gone', server: 'Quay' } }))).toEqual([
      '0e:c4:60:00:00:07 | MAC address, known there | Quay | ',
    ]);
  });
});
