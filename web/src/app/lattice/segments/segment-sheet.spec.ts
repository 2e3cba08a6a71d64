import { TestBed } from '@angular/core/testing';
import { SiteFixture, byText, type } from '../../testing/site-fixture';
import { SegmentSheet } from './segment-sheet';

describe('SegmentSheet', () => {
  const setUp = async (index: number, role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    const store = await site.open(role);
    const fixture = TestBed.createComponent(SegmentSheet);
    const { id } = site.sample.site.segments[index]!;
    const show = async (): Promise<void> => {
      const segment = store.site()!.segments.find((each) => each.id === id);
      if (segment) fixture.componentRef.setInput('segment', segment);
      await fixture.whenStable();
    };
    await show();
    const page = fixture.nativeElement as HTMLElement;
    const field = (name: string) => page.querySelector<HTMLInputElement>(`#segment-${name}`)!;
    const keep = async (): Promise<void> => {
      await fixture.whenStable();
      page.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }));
      await site.answer();
      await show();
    };
    const settle = async (): Promise<void> => {
      await fixture.whenStable();
      await site.answer();
      await show();
    };
    return { site, store, fixture, page, field, keep, settle };
  };

  it('puts an edit into the draft with what it saw before, and nothing when nothing changed', async () => {
    const { site, field, keep } = await setUp(1);
    await keep();
    expect(site.sent).toEqual([]);
    type(field('name'), 'Crew');
    await keep();
    expect(site.sent).toMatchObject([{ type: 'segment.set', from: { name: 'Segment 1' }, to: { name: 'Crew' } }]);
    expect(Object.keys((site.sent[0] as { to: object }).to)).toEqual(['name']);
  });

  it('carries gateway and range along with the subnet, and keeps the lease', async () => {
    const { field, keep } = await setUp(1);
    type(field('leaseHours'), '2');
    await keep();
    type(field('subnet'), '10.77.0.0/25');
    await keep();
    expect(['gateway', 'first', 'last', 'leaseHours'].map((name) => field(name).value)).toEqual([
      '10.77.0.1',
      '10.77.0.20',
      '10.77.0.126',
      '2',
    ]);
  });

  it('says at the field what is refused, and keeps what was typed', async () => {
    const { page, field, keep } = await setUp(1);
    type(field('gateway'), '10.1.10.30');
    await keep();
    expect(page.querySelector('.flaw')!.textContent).toBe('The range covers the gateway 10.1.10.30.');
    expect(field('gateway').value).toBe('10.1.10.30');
  });

  it('caps what its clients take when somebody goes on, and says what that leaves each', async () => {
    const { site, page, field, settle, fixture } = await setUp(1);
    byText(page, 'button', 'Caps').click();
    await fixture.whenStable();
    type(field('cap-allDown'), '0');
    const goOn = () => field('cap-allDown').dispatchEvent(new Event('focusout', { bubbles: true }));
    goOn();
    await settle();
    expect(page.textContent).toContain('A cap of 0 lets nothing through');
    type(field('cap-allDown'), '50');
    goOn();
    await settle();
    expect(site.sent.at(-1)).toMatchObject({ from: { caps: null }, to: { caps: { all: { down: 50_000 } } } });
    expect(byText(page, 'il-caps-cells tr', /^\s*Down, each/).textContent).toMatch(/50\s*25\s*10\s*2\.5\s*0\.5/);
    expect(page.textContent).toContain('which sees all of it');
  });

  it('removes a segment that nothing stands on, but never the one devices live in', async () => {
    const { page } = await setUp(0);
    expect(() => byText(page, 'button', 'Remove segment')).toThrow();
    TestBed.resetTestingModule();
    const other = await setUp(1);
    byText(other.page, 'button', 'Remove segment').click();
    await other.site.answer();
    expect(other.site.sent).toMatchObject([{ type: 'segment.remove' }]);
    expect(other.site.edits).toBe(0); // its tags are still on ports
  });

  it('takes a box that was pressed on the cabling, and gives a switch an address that is free', async () => {
    const { site, fixture, settle } = await setUp(1);
    const device = (kind: string) => site.sample.roster.find(({ model }) => model.startsWith(kind))!;
    fixture.componentInstance.press(device('AP').id);
    await settle();
    expect(site.sent.at(-1)).toMatchObject({
      to: { addresses: { from: { kind: 'ap', how: 'one', deviceIds: [device('AP').id] } } },
    });
    fixture.componentInstance.press(device('SW').id);
    await settle();
    expect(site.sent.at(-1)).toMatchObject({
      to: { addresses: { from: { kind: 'switch', deviceId: device('SW').id, address: '10.1.10.2' } } },
    });
    fixture.componentInstance.press(device('SW').id); // nobody, until somebody goes on
    await fixture.whenStable();
    expect(site.sent).toHaveLength(2);
  });

  it('is refused where somebody else changed the same meanwhile, and means it when pressed again', async () => {
    const { site, store, field, keep } = await setUp(1);
    type(field('name'), 'Crew');
    const other = store.edit([
      {
        type: 'segment.set',
        siteId: site.sample.site.id,
        segmentId: site.sample.site.segments[1]!.id,
        from: { name: 'Segment 1' },
        to: { name: 'Deck' },
      },
    ]);
    await site.answer();
    await other;
    await keep();
    expect([field('name').value, site.edits]).toEqual(['Crew', 1]);
    await keep();
    expect([field('name').value, site.edits]).toEqual(['Crew', 2]);
  });

  it('is only read by an observer', async () => {
    const { page, field } = await setUp(1, 'observer');
    expect(field('name').readOnly).toBe(true);
    expect(() => byText(page, 'button', 'Remove segment')).toThrow();
  });
});
