import { HttpTestingController } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { proposeSegment } from '@iron-lattice/core/lattice';
import { SiteStore } from '../../shell/site-store';
import { SiteFixture, byText, type } from '../../testing/site-fixture';
import { NewSegmentSheet } from './new-segment-sheet';

describe('NewSegmentSheet', () => {
  const setUp = async () => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(NewSegmentSheet);
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const http = TestBed.inject(HttpTestingController);
    const field = (name: string) => page.querySelector<HTMLInputElement>(`#segment-${name}`)!;
    /** Types, and answers the proposal that is asked for. */
    const enter = async (name: string, text: string): Promise<void> => {
      type(field(name), text);
      await fixture.whenStable();
      await new Promise((resolve) => setTimeout(resolve, 100));
      for (const request of http.match((each) => each.url.endsWith('/segment-proposal'))) {
        const params = request.request.params;
        const typed = { subnet: params.get('subnet') ?? undefined, gateway: params.get('gateway') ?? undefined };
        request.flush(proposeSegment(site.sample.intent, site.sample.site.id, Number(params.get('vlan')), typed));
      }
      await new Promise((resolve) => setTimeout(resolve));
      await fixture.whenStable();
    };
    const values = () => ['subnet', 'gateway', 'first', 'last'].map((name) => field(name).value);
    const flaws = () =>
      [...page.querySelectorAll('.flaw')].map((flaw) => flaw.textContent.trim()).filter((text) => text !== '');
    return { site, fixture, page, enter, values, flaws };
  };

  it('derives the rest from a VLAN ID, again when it changes', async () => {
    const { enter, values } = await setUp();
    await enter('vlan', '40');
    expect(values()).toEqual(['10.1.40.0/24', '10.1.40.1', '10.1.40.20', '10.1.40.254']);
    await enter('vlan', '41');
    expect(values()).toEqual(['10.1.41.0/24', '10.1.41.1', '10.1.41.20', '10.1.41.254']);
  });

  it('derives once the draft is there, when somebody types before it is', async () => {
    const { enter, values, fixture } = await setUp();
    const { data } = TestBed.inject(SiteStore);
    const there = data();
    data.set(null);
    await fixture.whenStable();
    await enter('vlan', '40');
    expect(values()[0]).toBe('');
    data.set(there);
    await fixture.whenStable();
    await enter('name', 'Deck');
    expect(values()).toEqual(['10.1.40.0/24', '10.1.40.1', '10.1.40.20', '10.1.40.254']);
  });

  it('keeps what was typed, lets the rest follow it, and derives it again when it is emptied', async () => {
    const { enter, values } = await setUp();
    await enter('vlan', '40');
    await enter('subnet', '192.168.7.0/25');
    expect(values()).toEqual(['192.168.7.0/25', '192.168.7.1', '192.168.7.20', '192.168.7.126']);
    await enter('vlan', '50');
    expect(values()[0]).toBe('192.168.7.0/25');
    await enter('subnet', '');
    expect(values()[0]).toBe('10.1.50.0/24');
  });

  it('says in place what is wrong while one types', async () => {
    const { enter, flaws } = await setUp();
    await enter('vlan', '4095');
    expect(flaws()).toEqual(['A VLAN ID is a whole number from 1 to 4094.']);
    await enter('vlan', '10');
    expect(flaws()).toEqual(['VLAN ID 10 is already used by “Segment 1”.']);
    await enter('vlan', '40');
    await enter('gateway', '10.9.9.9');
    expect(flaws()).toEqual(['The gateway 10.9.9.9 is outside 10.1.40.0/24.']);
  });

  it('adds the segment as it stands, and shows what the controller refuses at its field', async () => {
    const { site, fixture, page, enter, flaws } = await setUp();
    const added: string[] = [];
    fixture.componentInstance.added.subscribe((id) => added.push(id));
    await enter('vlan', '40');
    byText(page, 'button', 'Add segment').click();
    await site.answer();
    await fixture.whenStable();
    expect(flaws()).toEqual(['Give the segment a name.']);
    await enter('name', 'Deck');
    byText(page, 'button', 'Add segment').click();
    await site.answer();
    expect(site.sent.at(-1)).toMatchObject({
      type: 'segment.add',
      segment: { name: 'Deck', vlan: 40, gateway: '10.1.40.1' },
    });
    expect(added).toHaveLength(1);
  });
});
