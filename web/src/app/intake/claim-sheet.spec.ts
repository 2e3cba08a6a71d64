import { TestBed } from '@angular/core/testing';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { ClaimSheet } from './claim-sheet';

describe('ClaimSheet', () => {
  const setUp = async (claim: () => object) => {
    const site = new SiteFixture();
    site.answers.set('/claims', claim);
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(ClaimSheet);
    fixture.componentRef.setInput('serials', ['C-0001']);
    TestBed.tick();
    await site.answer();
    const page = fixture.nativeElement as HTMLElement;
    const enter = async (text: string): Promise<void> => {
      type(page.querySelector<HTMLInputElement>('#claim-serials')!, text);
      TestBed.tick();
      await site.answer();
    };
    const press = async (text: string): Promise<void> => {
      byText(page, 'button', text).click();
      await site.answer();
    };
    return { site, fixture, page, enter, press };
  };

  it('foretells the names, for chosen and for typed serial numbers', async () => {
    const { page, enter } = await setUp(() => ({}));
    expect(page.textContent).toContain('x-ap-03');
    await enter('C-0001; C-0002\tC-0003 ');
    expect(page.textContent).toContain('x-ap-03, x-ap-04, x-ap-05');
    expect(byText(page, 'button', 'Claim 3 devices')).toBeTruthy();
    await enter(' ');
    expect(byText<HTMLButtonElement>(page, 'button', 'Claim').disabled).toBe(true);
  });

  it('claims them all, and hands on what was claimed', async () => {
    const { site, fixture, press } = await setUp(() => ({ claimed: [{ id: 'new' }] }));
    const done: unknown[] = [];
    fixture.componentInstance.done.subscribe((devices) => done.push(devices));
    await press('Claim 1 device');
    expect(site.asked).toMatchObject([{ body: { serials: ['C-0001'] } }]);
    expect(done).toEqual([[{ id: 'new' }]]);
  });

  it('says for each device why it cannot be claimed, until something else is typed', async () => {
    const flaws = [
      { code: 'claim.unknown', message: 'No device with serial number C-0001 has ever called.', field: 'C-0001' },
      { code: 'claim.elsewhere', message: 'C-0002 belongs to Pier, as pr-ap-01.', field: 'C-0002' },
    ];
    const { site, fixture, page, enter, press } = await setUp(() => ({
      type: 'about:lattice/claim.refused',
      title: 'Nothing was claimed.',
      flaws,
    }));
    await press('Claim 1 device');
    expect([...page.querySelectorAll('[role=alert] p')].map((line) => line.textContent)).toEqual([
      'Nothing was claimed.',
      ...flaws.map((flaw) => flaw.message),
    ]);
    await enter('C-0001 C-0002');
    await press('Claim 2 devices');
    // A chosen row is heard of anew: neither what is typed nor what was said of it is lost.
    fixture.componentRef.setInput('serials', ['C-0001']);
    await site.answer();
    expect(page.querySelector<HTMLInputElement>('#claim-serials')!.value).toBe('C-0001 C-0002');
    expect(page.querySelectorAll('[role=alert] .flaw')).toHaveLength(2);
    await enter('C-0009');
    expect(page.querySelector('[role=alert]')).toBeNull();
  });
});
