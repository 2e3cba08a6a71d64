import { TestBed } from '@angular/core/testing';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { DevicePlace } from './device-place';

const LOSS = {
  code: 'band',
  severity: 'warning',
  message: 'It has no 6 GHz radio: SSIDs there are not sent any more.',
};
const REFUSED = { code: 'kind', severity: 'refused', message: 'A switch cannot take the place of an access point.' };

describe('DevicePlace', () => {
  const setUp = async () => {
    const site = new SiteFixture();
    const device = site.devices.find((each) => each.kind === 'ap')!;
    site.answers.set('/replacements', () => [
      { serial: 'SAME', model: 'AP-6E', losses: [] },
      { serial: 'LESS', model: 'AP-6', losses: [LOSS] },
      { serial: 'OTHER', model: 'SW-8P', losses: [REFUSED] },
    ]);
    site.answers.set('/leftovers', () => [
      { code: 'ports', severity: 'warning', message: '1 port would carry segments to nobody: x-sw-01 port 1.' },
    ]);
    for (const end of ['/replace', '/move']) site.answers.set(end, () => ({ ...device, name: 'x-ap-09' }));
    site.answers.set('/release', () => ({}));
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(DevicePlace);
    fixture.componentRef.setInput('device', device);
    TestBed.tick();
    await site.answer();
    const page = fixture.nativeElement as HTMLElement;
    const settle = async (): Promise<void> => {
      TestBed.tick();
      await site.answer();
    };
    const choose = async (serial: string): Promise<void> => {
      byText(page, 'label.box', new RegExp(`^${serial} `))
        .querySelector('input')!
        .click();
      await settle();
    };
    const press = async (text: string): Promise<void> => {
      byText(page, 'button', text).click();
      await settle();
    };
    const sent = () => site.asked.filter((each) => each.body !== null);
    return { site, device, fixture, page, settle, choose, press, sent };
  };

  it('says beforehand what would be lost with each box, and what the site would be left with', async () => {
    const { page } = await setUp();
    expect([...page.querySelectorAll('.loss')].map((each) => each.textContent)).toEqual([
      'Nothing would be lost.',
      LOSS.message,
      REFUSED.message,
    ]);
    expect(page.querySelector('.left')!.textContent).toContain('1 port would carry segments to nobody');
  });

  it('replaces at a press when nothing is lost, says so when something is, and not at all when it cannot', async () => {
    const { page, choose, press, sent } = await setUp();
    await choose('SAME');
    await press('Replace');
    expect(sent()).toMatchObject([{ body: { serial: 'SAME', despiteLosses: false } }]);
    await choose('LESS');
    await press('Replace all the same');
    expect(sent()[1]).toMatchObject({ body: { serial: 'LESS', despiteLosses: true } });
    await choose('OTHER');
    expect(byText<HTMLButtonElement>(page, 'button', 'Replace all the same').disabled).toBe(true);
  });

  it('releases only a device whose name was typed', async () => {
    const { page, fixture, device, settle, press, sent } = await setUp();
    const gone: unknown[] = [];
    fixture.componentInstance.gone.subscribe(() => gone.push(1));
    const button = byText<HTMLButtonElement>(page, 'button', 'Release');
    expect(button.disabled).toBe(true);
    type(page.querySelector<HTMLInputElement>('#place-name')!, device.name!);
    await settle();
    expect(button.disabled).toBe(false);
    await press('Release');
    expect(sent()[0]!.url).toBe(`/api/devices/${device.id}/release`);
    expect(gone).toHaveLength(1);
  });

  it('says why it could not be done', async () => {
    const { site, page, choose, press } = await setUp();
    site.answers.set('/replace', () => ({ type: 'about:lattice/replace.refused', title: 'SAME does not call.' }));
    await choose('SAME');
    await press('Replace');
    const said = [...page.querySelectorAll('[role=alert]')].map((each) => each.textContent).join('');
    expect(said).toBe('SAME does not call.');
  });
});
