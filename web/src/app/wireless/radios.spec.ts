import { TestBed } from '@angular/core/testing';
import { sampleId } from '@iron-lattice/core/testing';
import type { SitePlan } from '@iron-lattice/core/wireless';
import { RadioForm } from '../shell/radio-form';
import { radioRows } from '../shell/radio-rows';
import { SiteStore } from '../shell/site-store';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { BandSheet } from './band-sheet';
import { PlanStore } from './plan-store';
import { PlanView } from './plan-view';

const [one, two] = [sampleId(4, 0), sampleId(4, 1)];

const open = async (): Promise<SiteFixture> => {
  const site = new SiteFixture({ segments: 3, aps: 2 });
  TestBed.configureTestingModule({ providers: [...site.providers, PlanStore] });
  await site.open();
  return site;
};
const settler = (site: SiteFixture, stable: () => Promise<unknown>) => async (): Promise<void> => {
  for (let i = 0; i < 2; i++) {
    await stable();
    await site.answer();
  }
  await new Promise((resolve) => setTimeout(resolve, 60));
  await stable();
};

describe('RadioForm', () => {
  const setUp = async (...keys: string[]) => {
    const site = await open();
    const rows = () => {
      const data = TestBed.inject(SiteStore).data()!;
      return radioRows(data.site, data.roster, []).filter(({ key }) => keys.includes(key));
    };
    const fixture = TestBed.createComponent(RadioForm);
    const show = () => fixture.componentRef.setInput('rows', rows());
    show();
    const settle = settler(site, () => fixture.whenStable());
    await settle();
    const form = fixture.componentInstance as unknown as {
      set(change: object): Promise<void>;
      forget(): Promise<void>;
    };
    return { site, page: fixture.nativeElement as HTMLElement, settle, form, show };
  };

  it('gives what is chosen to every radio, and drops what is said of them alone', async () => {
    const { site, form, settle, show } = await setUp(`${one} 5`, `${two} 5`);
    void form.set({ channel: 44 });
    await settle();
    const said = { type: 'radio.set', band: '5', from: null, to: { channel: 44 } };
    expect(site.sent).toMatchObject([
      { ...said, deviceId: one },
      { ...said, deviceId: two },
    ]);
    show();
    void form.forget();
    await settle();
    expect(site.sent.slice(2)).toMatchObject([{ from: { channel: 44 }, to: null }, { to: null }]);
  });

  it('says at its field what the law allows', async () => {
    const { page, settle } = await setUp(`${one} 5`);
    const field = page.querySelector<HTMLInputElement>('#radio-power')!;
    field.value = '99';
    field.dispatchEvent(new Event('change'));
    await settle();
    expect(page.textContent).toMatch(/Power lies between 1 and \d+ dBm at 5 GHz/);
  });

  it('offers one band’s channels, none shared with radar where the band does not use them, and none for two bands', async () => {
    const { site, page, settle, show } = await setUp(`${one} 5`);
    const options = async () => {
      page.querySelector<HTMLElement>('mat-select#radio-channel')!.click();
      await settle();
      const found = [...document.querySelectorAll('mat-option')].map((each) => each.textContent.trim());
      document.body.querySelector<HTMLElement>('.cdk-overlay-backdrop')?.click();
      await settle();
      return found;
    };
    expect((await options()).some((text) => text.includes('radar'))).toBe(false);
    const siteId = site.sample.site.id;
    site.change({ type: 'radio.band', siteId, band: '5', from: null, to: { radar: true } });
    await settle();
    show();
    await settle();
    expect((await options()).filter((text) => /^120: .*10 min first/.test(text))).toHaveLength(1);
    const both = await (async () => {
      TestBed.resetTestingModule();
      return setUp(`${one} 2.4`, `${one} 5`);
    })();
    expect(both.page.textContent).toContain('Radios of one band at a time');
  });
});

describe('BandSheet', () => {
  const setUp = async (band: string) => {
    const site = await open();
    const fixture = TestBed.createComponent(BandSheet);
    fixture.componentRef.setInput('band', band);
    const settle = settler(site, () => fixture.whenStable());
    await settle();
    const page = fixture.nativeElement as HTMLElement;
    const say = async (text: string): Promise<void> => {
      const field = page.querySelector<HTMLInputElement>('#band-channels')!;
      type(field, text);
      field.dispatchEvent(new Event('change'));
      await settle();
    };
    return { site, page, say };
  };

  it('takes channels as people write them, and every legal one where nothing is said', async () => {
    const { site, say } = await setUp('5');
    await say('36–44, 100');
    expect(site.sent.at(-1)).toMatchObject({ type: 'radio.band', band: '5', to: { channels: [36, 40, 44, 100] } });
    await say('');
    expect(site.sent.at(-1)).toMatchObject({ to: { channels: 'legal' } });
  });

  it('does not send what is no list, and says what is not legal', async () => {
    const { site, page, say } = await setUp('2.4');
    expect(page.textContent).toContain('Starts at 20: of 40 MHz only one fits here');
    await say('one, six');
    expect(site.sent).toEqual([]);
    expect(page.textContent).toContain('“one, six” is no list of channels');
    await say('1, 14');
    expect(page.textContent).toContain('Channel 14 cannot be used at 2.4 GHz. Legal in Ireland');
  });
});

describe('PlanView', () => {
  const tuned = (channel: number, power = 20) => ({ channel, width: 40 as const, power });
  const row = (deviceId: string, name: string, before: number, after: number) => ({
    ...{ deviceId, name, band: '5' as const, before: tuned(before), after: tuned(after), moves: before !== after },
    ...{ speedBefore: 100, speedAfter: 150, clients: 3, listens: 0 },
  });
  const plan: SitePlan = {
    moved: 3,
    bands: [
      {
        ...{ band: '5', width: 40, wayBefore: 1, wayAfter: 0, cost: 0, bound: 0, unmeasured: [] },
        radios: [row(one, 'x-ap-01', 36, 36), row(two, 'x-ap-02', 36, 44)],
      },
    ],
  };
  const setUp = async () => {
    vi.spyOn(HTMLElement.prototype, 'clientHeight', 'get').mockReturnValue(600);
    const site = await open();
    const fixture = TestBed.createComponent(PlanView);
    const settle = settler(site, () => fixture.whenStable());
    await settle();
    return { site, page: fixture.nativeElement as HTMLElement, settle };
  };
  afterEach(() => vi.restoreAllMocks());

  it('chooses what changes, says who has to join again, and puts it into the draft', async () => {
    const { site, page, settle } = await setUp();
    TestBed.inject(PlanStore).plan.set(plan);
    await settle();
    expect(page.textContent).toContain('1 radio would change; 3 clients of those chosen have to join again.');
    expect(page.textContent).toContain('40 MHz; in each other’s way 1.00 → 0.00; no plan costs less.');
    byText(page, 'button', /Put 1 change into the draft/).click();
    await settle();
    expect(site.sent).toMatchObject([{ type: 'radio.set', deviceId: two, band: '5', to: tuned(44) }]);
    expect(TestBed.inject(PlanStore).plan()).toBeNull();
  });

  it('shows how far a plan is, and leaves it', async () => {
    const { site, page, settle } = await setUp();
    byText(page, 'button', 'Work out a plan').click();
    TestBed.tick();
    await Promise.resolve();
    const url = `/api/drafts/draft/sites/${site.sample.site.id}/channel-plan`;
    const asked = site.waiting(url);
    site.happen({ type: 'air-plan', siteId: site.sample.site.id, done: 0.4 });
    TestBed.tick();
    expect(page.querySelector('progress')!.value).toBeCloseTo(0.4);
    byText(page, 'button', 'Leave it').click();
    await settle();
    expect(asked.cancelled).toBe(true);
    expect(page.textContent).toContain('Work out a plan');
  });
});
