import { TestBed } from '@angular/core/testing';
import { sampleId, sampleSegment } from '@iron-lattice/core/testing';
import { SiteFixture, byText, type } from '../../testing/site-fixture';
import { PortsSheet } from './ports-sheet';

const sw = sampleId(3, 0);

describe('PortsSheet', () => {
  const setUp = async (...ports: string[]) => {
    const site = new SiteFixture({ segments: 3, aps: 2 });
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(PortsSheet);
    fixture.componentRef.setInput('picked', new Set(ports.map((port) => `${sw} ${port}`)));
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const settle = async (): Promise<void> => {
      await fixture.whenStable();
      await site.answer();
      await fixture.whenStable();
    };
    // Selects open over the page; what a choice does is asked of the component.
    const sheet = fixture.componentInstance as unknown as {
      setField(key: string, value: string): void;
      setTags(ids: string[]): void;
    };
    return { site, page, settle, sheet };
  };

  it('gives what is chosen to every port, each naming what it saw', async () => {
    const { site, sheet, settle } = await setUp('10', '11');
    sheet.setField('poe', 'off');
    await settle();
    const closed = { untagged: null, tagged: [] };
    expect(site.sent.filter((operation) => operation.type === 'port.set').slice(-2)).toMatchObject([
      { port: '10', from: closed, to: { ...closed, poe: 'off' } },
      { port: '11', from: closed, to: { ...closed, poe: 'off' } },
    ]);
  });

  it('works a second change out from what the first has made, however soon it follows', async () => {
    const { site, sheet, settle } = await setUp('10');
    sheet.setField('poe', 'off');
    sheet.setField('speed', '100');
    await settle();
    await settle();
    const first = { untagged: null, tagged: [], poe: 'off' };
    expect(site.sent).toMatchObject([{ to: first }, { from: first, to: { ...first, speed: '100' } }]);
  });

  it('says the flaw of a number at its field', async () => {
    const { page, settle } = await setUp('10');
    const field = page.querySelector<HTMLInputElement>('#ports-storm')!;
    field.value = '900';
    field.dispatchEvent(new Event('change'));
    await settle();
    expect(page.textContent).toContain('A limit lies between 0.1 and 100 percent.');
  });

  it('says of a duty what it is for, once for all ports that have it, and takes that away again', async () => {
    const { site, page, settle } = await setUp('10');
    expect(page.querySelector('#ports-purpose')).toBeNull(); // it has none
    const [siteId, dutyId] = [site.sample.site.id, sampleId(6, 1)];
    const duty = { id: dutyId, name: 'Kiosk', untagged: null, tagged: [] };
    const port = { deviceId: sw, port: '10', from: { untagged: null, tagged: [] }, to: { dutyId } };
    site.change({ type: 'duty.add', siteId, duty });
    site.change({ type: 'port.set', siteId, ...port });
    await new Promise((resolve) => setTimeout(resolve, 80));
    await settle();
    const field = () => page.querySelector<HTMLInputElement>('#ports-purpose')!;
    expect(page.textContent).toContain('What “Kiosk” is for');
    const say = async (text: string): Promise<void> => {
      field().value = text;
      field().dispatchEvent(new Event('change'));
      await settle();
    };
    await say('  Paying on the quay ');
    expect(site.sent.at(-1)).toEqual({
      ...{ type: 'duty.set', siteId, dutyId },
      ...{ from: { purpose: null }, to: { purpose: 'Paying on the quay' } },
    });
    expect(field().value).toBe('Paying on the quay');
    await say('');
    expect(site.sent.at(-1)).toMatchObject({ from: { purpose: 'Paying on the quay' }, to: { purpose: null } });
  });

  it('makes a duty of what the ports do, and gives it to them', async () => {
    const { site, page, settle } = await setUp('10', '11');
    type(page.querySelector<HTMLInputElement>('#ports-new-duty')!, 'Closed');
    byText(page, 'button', 'Make a duty').click();
    await settle();
    expect(site.sent).toMatchObject([
      { type: 'duty.add', duty: { name: 'Closed', untagged: null, tagged: [] } },
      { type: 'port.set', port: '10', to: { dutyId: expect.any(String) as string } },
      { type: 'port.set', port: '11' },
    ]);
  });

  it('proposes what follows from what is plugged in', async () => {
    const { site, sheet, page, settle } = await setUp('1');
    sheet.setTags([sampleSegment(1).id]);
    await settle();
    byText(page, 'button', /^Give the usual/).click();
    await settle();
    expect(site.sent.at(-1)).toMatchObject({
      type: 'port.set',
      port: '1',
      to: { tagged: [sampleSegment(1).id, 'aired'] },
    });
  });
});
