import { TestBed } from '@angular/core/testing';
import type { DeviceView } from '@iron-lattice/core/intake';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { DeviceForm } from './device-form';

describe('DeviceForm', () => {
  const setUp = async (role: 'administrator' | 'observer' = 'administrator', change: Partial<DeviceView> = {}) => {
    const site = new SiteFixture();
    const device: DeviceView = { ...site.devices[2]!, ...change };
    const segment = site.sample.site.segments[0]!;
    const address = { address: '10.1.1.2', length: 24, gateway: '10.1.1.1', dns: ['10.1.1.1'] };
    site.answers.set('/proposals', () => ({ name: 'x-ap-03', address, segment }));
    site.answers.set(`/api/devices/${device.id}`, () => device);
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open(role);
    const fixture = TestBed.createComponent(DeviceForm);
    fixture.componentRef.setInput('device', device);
    TestBed.tick();
    await site.answer();
    const page = fixture.nativeElement as HTMLElement;
    const press = async (text: string): Promise<void> => {
      byText(page, 'button', text).click();
      TestBed.tick();
      await site.answer();
    };
    const field = (id: string): HTMLInputElement => page.querySelector<HTMLInputElement>(`#${id}`)!;
    const changes = () => site.asked.filter((each) => each.body !== null).map((each) => each.body);
    return { site, device, page, press, field, changes, fixture };
  };

  it('renames, and foretells what the convention would say', async () => {
    const { page, press, field, changes } = await setUp();
    expect(page.textContent).toContain('By convention the next free one is x-ap-03');
    type(field('device-name'), 'x-ap-mast');
    TestBed.tick();
    await press('Rename');
    expect(changes()).toEqual([{ version: 0, name: 'x-ap-mast' }]);
  });

  it('keeps what is typed while the device is heard of again, and begins anew with another', async () => {
    const { site, device, field, fixture } = await setUp();
    type(field('device-name'), 'x-ap-mast');
    fixture.componentRef.setInput('device', { ...device, tags: ['pier'], heardAt: '2026-03-01T08:00:00Z' });
    TestBed.tick();
    await site.answer();
    expect([field('device-name').value, field('device-tags').value]).toEqual(['x-ap-mast', 'pier']);
    fixture.componentRef.setInput('device', { ...device, id: 'another', name: 'x-ap-07' });
    TestBed.tick();
    await site.answer();
    expect(field('device-name').value).toBe('x-ap-07');
  });

  it('begins a fixed address with a free one, and sends what is typed', async () => {
    const { press, field, changes } = await setUp();
    await press('Fixed');
    expect([field('device-address').value, field('device-length').value]).toEqual(['10.1.1.2', '24']);
    type(field('device-address'), '10.1.1.9');
    TestBed.tick();
    await press('Give it this address');
    expect(changes()).toEqual([
      { version: 0, fixed: { address: '10.1.1.9', length: '24', gateway: '10.1.1.1', dns: '10.1.1.1' } },
    ]);
  });

  it('shows at its field why an address is refused', async () => {
    const { site, device, press, page } = await setUp();
    const message = '10.1.1.2 is taken by x-ap-04.';
    site.answers.set(`/api/devices/${device.id}`, () => ({
      type: 'about:lattice/device.refused',
      title: message,
      flaws: [{ code: 'address.taken', message, field: 'address' }],
    }));
    await press('Fixed');
    await press('Give it this address');
    const cell = page.querySelector('#device-address')!.closest('il-cell')!;
    expect(cell.querySelector('.flaw')!.textContent).toBe(message);
  });

  it('lets go of a fixed address, and keeps what is typed when the device is fetched again', async () => {
    const fixed = { address: '10.1.1.9', length: 24, gateway: '10.1.1.1', dns: ['10.1.1.1'] };
    const { press, field, changes, fixture, device } = await setUp('administrator', { fixed });
    type(field('device-address'), '10.1.1.12');
    fixture.componentRef.setInput('device', { ...device, state: 'behind' });
    TestBed.tick();
    expect(field('device-address').value).toBe('10.1.1.12');
    await press('By DHCP');
    expect(changes()).toEqual([{ version: 0, fixed: null }]);
  });

  it('switches the light, and offers an observer nothing to change', async () => {
    const admin = await setUp();
    await admin.press('Off');
    expect(admin.changes()).toEqual([{ version: 0, lightOff: true }]);
    TestBed.resetTestingModule();
    const { page } = await setUp('observer');
    expect([...page.querySelectorAll('button')].every((button) => button.disabled)).toBe(true);
    expect(page.querySelector<HTMLInputElement>('#device-name')!.readOnly).toBe(true);
  });
});
