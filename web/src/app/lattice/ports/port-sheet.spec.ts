import { TestBed } from '@angular/core/testing';
import { sampleId, sampleSegment } from '@iron-lattice/core/testing';
import { SiteFixture, byText } from '../../testing/site-fixture';
import { PortSheet } from './port-sheet';

describe('PortSheet', () => {
  const setUp = async (segment: number, port: string) => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(PortSheet);
    fixture.componentRef.setInput('segment', sampleSegment(segment));
    const deviceId = sampleId(3, 0);
    fixture.componentRef.setInput('column', {
      key: `port:${deviceId}:${port}`,
      group: 'x-sw-01',
      label: `port ${port}`,
      deviceId,
      port,
    });
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const press = async (text: string | RegExp): Promise<void> => {
      byText(page, '.actions button[mat-stroked-button]', text).click();
      await site.answer();
      await fixture.whenStable();
    };
    const values = () => [...page.querySelectorAll('.value')].map((value) => value.textContent.trim());
    return { site, page, press, values };
  };

  it('takes a tag off and says what lacks then', async () => {
    const { site, press, values } = await setUp(1, '1');
    expect(values()).toEqual(['tagged', 'Management', 'Segment 1, Segment 2']);
    await press('Take the tag 10 off');
    expect(site.sent).toMatchObject([{ type: 'port.untag', port: '1' }]);
    expect(values()[0]).toBe('not at all, though an outer device needs it');
    await press('Carry Segment 1 tagged');
    expect(values()[0]).toBe('tagged');
  });

  it('changes what is carried untagged, naming what it saw', async () => {
    const { site, press, values } = await setUp(1, '9');
    expect(values()[0]).toBe('not at all');
    await press('Carry it untagged');
    expect(site.sent).toMatchObject([{ type: 'port.untagged', from: null, to: sampleSegment(1).id }]);
    expect(values()).toEqual(['untagged', 'Segment 1', 'nothing']);
    await press('Carry nothing untagged here');
    expect(values()).toEqual(['not at all', 'nothing', 'nothing']);
    await press('Carry it untagged');
    expect(values()[0]).toBe('untagged');
  });

  it('points to the edit that brings a device back: management untagged, anything else tagged', async () => {
    const { page, press } = await setUp(0, '1');
    await press('Carry nothing untagged here');
    expect([...page.querySelectorAll('.actions .mend')].map((button) => button.textContent.trim())).toEqual([
      'Carry it untagged',
    ]);
  });

  it('warns where a device would be cut off, and has nothing to take off a trunk', async () => {
    const { page } = await setUp(0, '1');
    expect(page.textContent).toContain('without it the device is cut off');
    TestBed.resetTestingModule();
    const trunk = await setUp(1, '25');
    expect(trunk.page.querySelectorAll('.actions button[mat-stroked-button]')).toHaveLength(0);
    expect(trunk.page.textContent).toContain('A trunk carries every segment of the site.');
  });
});
