import { TestBed } from '@angular/core/testing';
import type { DeviceView } from '@iron-lattice/core/intake';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { DeviceAsk } from './device-ask';

describe('DeviceAsk', () => {
  const setUp = async (change: Partial<DeviceView> = {}, behind: readonly string[] = []) => {
    const site = new SiteFixture();
    site.answers.set('/leftovers', () =>
      behind.length > 0 ? [{ code: 'devices', severity: 'error', message: '', devices: behind }] : [],
    );
    site.answers.set('/commands', (body) => {
      const { name, target } = body as { name: string; target: string };
      return target === 'nobody'
        ? { ok: false, text: 'nobody does not answer.' }
        : { ok: true, text: `${name} ${target}: fine` };
    });
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(DeviceAsk);
    fixture.componentRef.setInput('device', { ...site.devices[0]!, ...change });
    fixture.componentRef.setInput('gateway', '10.1.1.1');
    TestBed.tick();
    const page = fixture.nativeElement as HTMLElement;
    const ask = async (text: string, target?: string): Promise<void> => {
      if (target !== undefined) type(page.querySelector<HTMLInputElement>('#ask-target')!, target);
      TestBed.tick();
      byText(page, 'button', text).click();
      await site.answer();
    };
    const said = () => [...page.querySelectorAll('.asked, pre')].map((each) => each.textContent.trim());
    return { site, fixture, page, ask, said };
  };

  it('asks the gateway first, and keeps what was answered, newest first', async () => {
    const { ask, said, page } = await setUp();
    await ask('Ping');
    await ask('Look up name', 'www.skerrow.example');
    expect(said()).toEqual([
      'look up www.skerrow.example',
      'lookup www.skerrow.example: fine',
      'ping 10.1.1.1',
      'ping 10.1.1.1: fine',
    ]);
    await ask('Ping', 'nobody');
    expect(page.querySelector('pre')!.classList.contains('bad')).toBe(true);
  });

  it('needs a target to ask about, and none for the box itself', async () => {
    const { page, ask, site } = await setUp();
    type(page.querySelector<HTMLInputElement>('#ask-target')!, '');
    TestBed.tick();
    expect(byText<HTMLButtonElement>(page, 'button', 'Trace route').disabled).toBe(true);
    await ask('Blink its light');
    expect(site.asked.at(-1)!.body).toEqual({ name: 'locate', target: '' });
  });

  it('offers the ports that the model has, and begins anew with another device', async () => {
    const { site, fixture, ask, said } = await setUp();
    await ask('Ping');
    expect(said()).toHaveLength(2);
    fixture.componentRef.setInput('device', site.devices[1]!);
    TestBed.tick();
    expect(said()).toEqual([]);
  });

  it('says why a device cannot be asked', async () => {
    expect((await setUp({ state: 'silent' })).page.textContent).toContain('It is silent. Check its power and cable.');
    TestBed.resetTestingModule();
    expect((await setUp({ updating: '2.0.0' })).page.textContent).toContain('It is being updated to 2.0.0.');
  });

  it('says who is away with a box that is restarted, and how many', async () => {
    const { site, page, ask } = await setUp({}, ['x-ap-01', 'x-ap-02']);
    await site.answer();
    TestBed.tick();
    await new Promise((resolve) => setTimeout(resolve));
    TestBed.tick();
    expect(page.textContent).toContain('all that hang on it: x-ap-01, x-ap-02');
    await ask('Restart, with 2 behind it');
    expect(site.asked.at(-1)).toMatchObject({ body: { name: 'restart' } });
  });
});
