import { TestBed } from '@angular/core/testing';
import { sampleId } from '@iron-lattice/core/testing';
import type { Operation } from '@iron-lattice/core/intent';
import { SiteFixture } from '../testing/site-fixture';
import { EntryPage } from './entry-page';

describe('EntryPage', () => {
  const setUp = async (...operations: Operation[]) => {
    const site = new SiteFixture();
    site.answers.set(`/api/sites/${site.sample.site.id}/clients`, () => [
      {
        mac: '02:1a:00:00:00:07',
        name: 'scanner',
        vlan: 10,
        address: '10.1.10.20',
        address6: null,
        leasedBy: 'x-gw-01',
        at: { deviceId: sampleId(4, 0), deviceName: 'x-ap-01', ssid: 'SSID 1' },
        since: 1,
        classId: sampleId(7, 1),
      },
    ]);
    TestBed.configureTestingModule({ providers: site.providers });
    const store = await site.open();
    if (operations.length > 0) {
      const done = store.edit(operations);
      await site.answer();
      await done;
    }
    const fixture = TestBed.createComponent(EntryPage);
    fixture.detectChanges();
    await new Promise((resolve) => setTimeout(resolve, 5));
    await site.answer();
    fixture.detectChanges();
    return fixture.nativeElement as HTMLElement;
  };
  const add: Operation = {
    type: 'class.add',
    accessClass: {
      id: sampleId(7, 1),
      name: 'Scanners',
      segment: 'Segment 2',
      members: [{ mac: '02:1a:00:00:00:07', name: 'Pier gate' }],
      reach: { kind: 'estate' },
    },
  };

  it('says what a class is for before there is one', async () => {
    expect((await setUp()).textContent).toContain('No access class here yet.');
  });

  it('shows who of a class is here, and that nobody asks yet', async () => {
    const page = await setUp(add);
    expect(page.querySelector('tbody tr')!.textContent).toMatch(/Scanners.*Segment 2.*1.*1, at x-ap-01.*whole estate/s);
    expect(page.textContent).toContain('Nobody asks yet');
  });

  it('says which SSIDs and how many ports ask', async () => {
    const ssidId = sampleId(5, 0);
    const page = await setUp(
      add,
      { type: 'ssid.set', ssidId, from: { byClass: null }, to: { byClass: true } },
      {
        type: 'port.set',
        siteId: sampleId(9, 0),
        deviceId: sampleId(3, 0),
        port: '20',
        from: { untagged: null, tagged: [] },
        to: { untagged: null, tagged: [], auth: 'mac' },
      },
    );
    expect(page.textContent).toContain('Clients are asked who they are on “SSID 1”, 1 port.');
  });
});
