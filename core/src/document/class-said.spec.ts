import { expect, test } from 'vitest';
import { classBySaid, portalBySaid, serverKeyAnswer, type ClassDocument } from '.';

const crew: ClassDocument = { id: 'c', name: 'Crew', vlan: 20, members: [] };
const at = {
  classes: [crew],
  radius: {
    servers: [],
    segments: [{ vlan: 20, name: 'Crew' }],
    portals: [
      { id: 'p', name: 'Visitors' },
      { id: 'q', name: 'Crew' },
    ],
  },
};
const none = { kind: 'none', text: '' } as const;

test('an answer names a portal, a class, or both, by what each is called; what is neither lets nobody in', () => {
  const said = (...filterIds: string[]) => ({ filterIds, vlan: none });
  expect(portalBySaid(at, said(' visitors '))).toMatchObject({ id: 'p' });
  expect(classBySaid(at, said('Visitors'))).toEqual({ ok: true, accessClass: null, by: 'nothing' });
  expect(classBySaid(at, said('Visitors', 'crew'))).toMatchObject({ ok: true, accessClass: crew, by: 'filter' });
  expect(classBySaid(at, said('Visitors', 'Pilots'))).toEqual({ ok: false, why: 'class', said: 'Pilots' });
  // Where a class and a portal are called the same, both are meant.
  expect([classBySaid(at, said('Crew')), portalBySaid(at, said('Crew'))]).toMatchObject([
    { accessClass: crew },
    { id: 'q' },
  ]);
  expect(portalBySaid({ classes: [crew] }, said('Visitors'))).toBeUndefined();
  expect(classBySaid({ classes: [crew] }, said('Visitors'))).toMatchObject({ ok: false, why: 'class' });
});

test('beside the name of a portal the VLAN still says the class; and a key leads where it would without that name', () => {
  const said = { filterIds: ['Visitors'], vlan: { kind: 'id', text: '20' } } as const;
  expect(classBySaid(at, said)).toMatchObject({ ok: true, accessClass: crew, by: 'vlan' });
  const place = { ring: { segments: [{ name: 'Crew', vlan: 20 }] }, classes: at.classes, radius: at.radius };
  expect(serverKeyAnswer(place, said)).toEqual({ ok: true, at: { name: 'Crew', vlan: 20 } });
  expect(serverKeyAnswer(place, { ...said, filterIds: ['Pilots'] })).toEqual({ ok: false, why: 'nowhere' });
});
