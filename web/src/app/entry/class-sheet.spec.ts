import { HttpTestingController } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import type { EditRequest } from '@iron-lattice/core/assess';
import type { AccessClass } from '@iron-lattice/core/intent';
import { sampleId } from '@iron-lattice/core/testing';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { ClassSheet } from './class-sheet';

const scanners: AccessClass = {
  id: sampleId(7, 1),
  name: 'Scanners',
  segment: 'Segment 1',
  members: [{ mac: '02:1a:00:00:00:07', name: 'Pier gate' }],
  reach: { kind: 'sites', siteIds: [sampleId(9, 0), sampleId(9, 1)] },
};

describe('ClassSheet', () => {
  const setUp = async (accessClass: AccessClass | null, role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open(role);
    const fixture = TestBed.createComponent(ClassSheet);
    fixture.componentRef.setInput('accessClass', accessClass);
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const field = (name: string) => page.querySelector<HTMLInputElement>(`#class-${name}`)!;
    const submit = async (): Promise<EditRequest> => {
      await fixture.whenStable();
      byText(page, 'button[type=submit]', /Add class|Put into the draft/).click();
      await new Promise((resolve) => setTimeout(resolve));
      const request = TestBed.inject(HttpTestingController).expectOne((each) => each.url.endsWith('/operations'));
      return request.request.body as EditRequest;
    };
    return { fixture, page, field, submit };
  };

  it('sends the clients it was given, in one way of writing, and leaves other fields alone', async () => {
    const { field, submit } = await setUp(scanners);
    expect(field('members').value).toBe('02:1a:00:00:00:07 Pier gate');
    type(field('members'), '02:1a:00:00:00:07 Pier gate\n02-1A-00-00-00-08 Car deck');
    const { operations } = await submit();
    const added = { mac: '02:1a:00:00:00:08', name: 'Car deck' };
    expect(operations).toEqual([
      {
        type: 'class.set',
        classId: scanners.id,
        from: { members: scanners.members },
        to: { members: [...scanners.members, added] },
      },
    ]);
  });

  it('says which lines are wrong, keeps what is typed, and sends nothing', async () => {
    const { fixture, page, field } = await setUp(scanners);
    const text = `gate\n${scanners.members[0]!.mac}\n\n02:1a:00:00:00:07 twice`;
    type(field('members'), text);
    await fixture.whenStable();
    expect(page.textContent).toContain('Line 1: “gate” is no MAC address.');
    expect(page.textContent).toContain('Line 4: 02:1a:00:00:00:07 is on line 2 already.');
    expect(byText<HTMLButtonElement>(page, 'button[type=submit]', 'Put into the draft').disabled).toBe(true);
    expect(field('members').value).toBe(text);
  });

  it('makes a copy under the next name that is free, without the clients, which have one class each', async () => {
    const { fixture, page } = await setUp({ ...scanners, groups: ['Gates'] });
    byText(page, 'button', 'Make a copy').click();
    await fixture.whenStable();
    const request = TestBed.inject(HttpTestingController).expectOne((each) => each.url.endsWith('/operations'));
    const { operations } = request.request.body as EditRequest;
    const { segment, reach } = scanners;
    expect(operations).toEqual([
      { type: 'class.add', accessClass: { id: expect.any(String), name: 'Scanners 2', segment, reach, members: [] } },
    ]);
  });

  it('adds a class to this site alone unless told otherwise', async () => {
    const { field, submit } = await setUp(null);
    type(field('name'), 'Tills');
    const { operations } = await submit();
    expect(operations).toMatchObject([
      {
        type: 'class.add',
        accessClass: { name: 'Tills', members: [], reach: { kind: 'sites', siteIds: [sampleId(9, 0)] } },
      },
    ]);
  });

  it('shows all of it to an observer, and lets nothing be changed', async () => {
    const { page, field } = await setUp(scanners, 'observer');
    expect(page.textContent).toContain('2 sites; 1000 at most');
    expect([field('name').readOnly, field('members').readOnly]).toEqual([true, true]);
    expect(page.querySelector('button[type=submit]')).toBeNull();
  });

  it('says of each client that has it what gave it that, whatever the draft says by now', async () => {
    const { fixture, page } = await setUp(scanners);
    const at = { deviceId: sampleId(4, 0), deviceName: 'x-ap-01', ssid: 'SSID 1' };
    const client = (name: string, more: object) => ({
      ...{ mac: `02:1a:00:00:01:0${name.length}`, name, vlan: 10, address: null, address6: null, leasedBy: null },
      ...{ at, since: null, classId: scanners.id, ...more },
    });
    fixture.componentRef.setInput('here', [
      client('a', { named: { classId: scanners.id, server: 'Quay' } }),
      client('bb', { key: 'k' }),
      client('ccc', { keyedBy: 'Quay' }),
      client('dddd', {}),
      client('eeeee', { mac: scanners.members[0]!.mac }),
    ]);
    await fixture.whenStable();
    const said = [...page.querySelectorAll('.here li')].map((each) => each.textContent.split(',').at(-1)!.trim());
    expect(said).toEqual(['chosen by Quay', 'by its key', 'named by Quay', 'as everybody else', 'listed']);
  });
});
