import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { SiteClient } from '@iron-lattice/core/lattice';
import { SiteFixture, byText, type } from '../../testing/site-fixture';
import { LatticeFacts } from '../facts/lattice-facts';
import { PoolsSheet } from './pools-sheet';

const client = (i: number): SiteClient => ({
  mac: `0e:00:00:00:00:${i.toString(16).padStart(2, '0')}`,
  name: '',
  vlan: 10,
  address: null,
  address6: null,
  leasedBy: null,
  at: { deviceId: 'a', deviceName: 'a', ssid: 'Deck' },
  since: null,
});
const pool = { id: 'pool', name: 'Visitors', vlans: '10,20' };

describe('PoolsSheet', () => {
  const setUp = async () => {
    const site = new SiteFixture({ segments: 3, aps: 0 });
    site.livePools = [pool];
    const clients = Array.from({ length: 90 }, (_, i) => client(i));
    TestBed.configureTestingModule({
      providers: [...site.providers, { provide: LatticeFacts, useValue: { clients: signal(clients) } }],
    });
    const store = await site.open();
    const fixture = TestBed.createComponent(PoolsSheet);
    const settle = async (): Promise<void> => {
      await fixture.whenStable();
      await site.answer();
      await fixture.whenStable();
    };
    void store.edit([{ type: 'pool.add', siteId: site.sample.site.id, pool }]);
    await settle();
    const page = fixture.nativeElement as HTMLElement;
    const vlans = page.querySelector<HTMLInputElement>('#pool-vlans-pool')!;
    const moved = (): number => Number(/^\s*(\d+)/.exec(page.querySelector('[role=status]')?.textContent ?? '0')![1]);
    return { page, settle, vlans, moved, site };
  };

  it('says while a list is typed how many clients would change their segment, and goes on saying it', async () => {
    const { page, vlans, settle, moved, site } = await setUp();
    expect(page.querySelector('[role=status]')).toBeNull();
    type(vlans, '10,20,30');
    await settle();
    expect(moved()).toBeGreaterThan(15); // a third of 90, by chance
    expect(moved()).toBeLessThan(45);
    const shares = [...page.querySelectorAll('.bar')].map((bar) => bar.textContent.trim());
    expect(shares).toHaveLength(3);
    const before = moved();
    vlans.dispatchEvent(new Event('change'));
    await settle();
    expect(site.sent.at(-1)).toMatchObject({ type: 'pool.set', from: { vlans: '10,20' }, to: { vlans: '10,20,30' } });
    expect(moved()).toBe(before);
  });

  it('keeps to what was said while what is typed is no list, and counts nothing of what devices never heard', async () => {
    const { page, vlans, settle, moved, site } = await setUp();
    type(vlans, '10,20,');
    await settle();
    expect(moved()).toBe(0);
    expect(page.querySelectorAll('.bar')).toHaveLength(2);
    site.livePools = [];
    type(vlans, '20,30');
    vlans.dispatchEvent(new Event('change'));
    await settle();
    expect(moved()).toBe(0);
    expect(byText(page, 'button', 'Remove the pool')).toBeTruthy();
  });
});
