import { HttpTestingController } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import type { EditRequest } from '@iron-lattice/core/assess';
import { Problem } from '../session/problem';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { SsidSheet } from './ssid-sheet';

describe('SsidSheet', () => {
  const setUp = async (index: number | null) => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(SsidSheet);
    fixture.componentRef.setInput('ssid', index === null ? null : site.sample.intent.estate.ssids[index]);
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const field = (name: string) => page.querySelector<HTMLInputElement>(`#ssid-${name}`)!;
    const submit = async (): Promise<EditRequest> => {
      await fixture.whenStable();
      byText(page, 'button[type=submit]', /Add SSID|Put into the draft/).click();
      await new Promise((resolve) => setTimeout(resolve));
      const request = TestBed.inject(HttpTestingController).expectOne((each) => each.url.endsWith('/operations'));
      return request.request.body as EditRequest;
    };
    return { site, fixture, page, field, submit };
  };

  it('sends a passphrase beside the edit, never in it', async () => {
    const { field, submit } = await setUp(null);
    type(field('name'), 'Deck');
    type(field('passphrase'), 'gull-on-the-mast');
    const { operations, secrets } = await submit();
    const [operation] = operations;
    expect(operation).toMatchObject({
      type: 'ssid.add',
      ssid: { name: 'Deck', security: 'wpa2-wpa3-psk', bands: ['2.4', '5'], reach: { kind: 'sites' } },
    });
    expect(JSON.stringify(operations)).not.toContain('gull');
    const reference = operation?.type === 'ssid.add' ? operation.ssid.passphrase!.secret : '';
    expect(secrets).toEqual({ [reference]: 'gull-on-the-mast' });
  });

  it('keeps clients from what is ticked, and from nothing when nothing is', async () => {
    const { submit, page, fixture } = await setUp(0);
    byText(page, 'mat-checkbox label', 'other segments').click();
    byText(page, 'mat-checkbox label', 'each other').click();
    await fixture.whenStable();
    byText(page, 'mat-checkbox label', 'each other').click();
    const { operations } = await submit();
    expect(operations).toMatchObject([
      { type: 'ssid.set', from: { isolation: null }, to: { isolation: { segments: true, clients: false } } },
    ]);
  });

  it('sends only what was changed, with what it was before', async () => {
    const { field, submit, page, fixture } = await setUp(0);
    expect(byText<HTMLButtonElement>(page, 'button[type=submit]', 'Put into the draft').disabled).toBe(true);
    type(field('name'), 'Bridge');
    await fixture.whenStable();
    byText(page, 'mat-checkbox label', '6 GHz').click();
    const { operations, secrets } = await submit();
    expect(operations).toMatchObject([
      {
        type: 'ssid.set',
        from: { name: 'SSID 1', bands: ['2.4', '5', '6'] },
        to: { name: 'Bridge', bands: ['2.4', '5'] },
      },
    ]);
    expect(Object.keys((operations[0] as { to: object }).to)).toEqual(['name', 'bands']);
    expect(secrets).toEqual({});
  });

  it('asks for no passphrase where none is needed, and takes what 6 GHz takes by one press', async () => {
    const { field, submit, page, fixture } = await setUp(null);
    type(field('name'), 'Quay\u200b');
    const hint = () => byText(page, '.hint', /of 32 bytes/).textContent;
    await fixture.whenStable();
    expect(hint()).toContain('7 of 32 bytes, heard as “Quay‹U+200B›”');
    const add = () => byText<HTMLButtonElement>(page, 'button[type=submit]', 'Add SSID');
    expect(add().disabled).toBe(true);
    const sheet = fixture.componentInstance as unknown as { set(change: object): void };
    sheet.set({ security: 'open', bands: ['5', '6'] });
    await fixture.whenStable();
    expect(field('passphrase')).toBeNull();
    byText(page, 'button', 'Take enhanced open').click();
    const { operations, secrets } = await submit();
    expect(operations).toMatchObject([{ type: 'ssid.add', ssid: { security: 'owe', passphrase: null } }]);
    expect(secrets).toEqual({});
  });

  it('says how clients are treated as numbers, and takes nothing else for one', async () => {
    const { field, submit, page, fixture } = await setUp(0);
    type(field('join'), 'near');
    await fixture.whenStable();
    expect(page.textContent).toContain('A whole number, or nothing.');
    expect(byText<HTMLButtonElement>(page, 'button[type=submit]', 'Put into the draft').disabled).toBe(true);
    type(field('join'), '−74 dBm');
    type(field('most'), '40');
    await fixture.whenStable();
    byText(page, 'mat-checkbox label', 'hidden from lists').click();
    byText(page, 'mat-checkbox label', /802.11v/).click();
    const { operations } = await submit();
    expect(operations).toMatchObject([
      {
        from: { join: null, most: null, hidden: null, roam: null },
        to: { join: -74, most: 40, hidden: true, roam: ['v'] },
      },
    ]);
  });

  it('says what caps leave each client, where they are held, and keeps them as kilobits', async () => {
    const { field, submit, page, fixture } = await setUp(0);
    const cap = (name: string) => field(`cap-${name}`);
    expect(page.querySelector('il-caps-cells table')).toBeNull();
    type(cap('clientDown'), '8,5');
    type(cap('allDown'), '60');
    await fixture.whenStable();
    const row = (name: string) => byText(page, 'il-caps-cells tr', new RegExp(`^\\s*${name}`)).textContent;
    expect(row('Down, each')).toMatch(/8\.5\s*8\.5\s*8\.5\s*3\s*0\.6/);
    expect(row('Up, each')).toContain('all there is');
    expect(row('Decided by')).toMatch(/each client\s*each client\s*each client\s*all together/);
    expect(page.textContent).toContain('Each client is held at its AP. All together: at the gateway.');
    type(cap('burst'), 'long');
    await fixture.whenStable();
    expect(byText<HTMLButtonElement>(page, 'button[type=submit]', 'Put into the draft').disabled).toBe(true);
    type(cap('burst'), '250 ms');
    const { operations } = await submit();
    expect(operations).toMatchObject([
      { from: { caps: null }, to: { caps: { client: { down: 8500 }, all: { down: 60_000 }, burst: 250 } } },
    ]);
  });

  it('is sent by chosen APs of the site in front, one at the least, and says nothing of other sites', async () => {
    const { site, fixture, submit, page } = await setUp(0);
    const aps = site.sample.roster.filter(({ model }) => model.startsWith('AP')).map(({ id }) => id);
    const sheet = fixture.componentInstance as unknown as { set(change: object): void };
    const senders = () => page.querySelector('#ssid-aps');
    expect(senders()).toBeNull();
    sheet.set({ aps: { [site.sample.site.id]: [] } });
    await fixture.whenStable();
    expect(senders()).not.toBeNull();
    expect(page.textContent).toContain('Choose an AP at least.');
    expect(byText<HTMLButtonElement>(page, 'button[type=submit]', 'Put into the draft').disabled).toBe(true);
    sheet.set({ aps: { [site.sample.site.id]: [aps[0]] } });
    const { operations } = await submit();
    expect(operations).toMatchObject([{ from: { aps: {} }, to: { aps: { [site.sample.site.id]: [aps[0]] } } }]);
  });

  it('keeps the old passphrase right for a while, and ends it by one press', async () => {
    const { site, fixture, field, submit, page } = await setUp(0);
    expect(field('until')).toBeNull();
    type(field('passphrase'), 'heron-over-the-bar');
    await fixture.whenStable();
    expect(page.textContent).toContain('who has the old one is cut off');
    byText(page, 'button', 'Keep it a while').click();
    await fixture.whenStable();
    expect(field('until').value).toMatch(/^\d{4}-\d{2}-\d{2}$/);
    type(field('until'), '2030-01-31');
    const { operations, secrets } = await submit();
    const old = site.sample.intent.estate.ssids[0]!.passphrase!.secret;
    const [fresh] = Object.keys(secrets!);
    expect(operations).toMatchObject([
      {
        from: { former: null, passphrase: { secret: old } },
        to: { former: { secret: old, until: '2030-01-31' }, passphrase: { secret: fresh } },
      },
    ]);
  });

  it('says beside an old passphrase why it may not stay', async () => {
    const { site, fixture, page } = await setUp(0);
    const ssid = {
      ...site.sample.intent.estate.ssids[0]!,
      former: { secret: crypto.randomUUID(), until: '2030-01-31' },
    };
    fixture.componentRef.setInput('ssid', ssid);
    await fixture.whenStable();
    expect(page.textContent).toContain('Nobody here uses it now.');
    const sheet = fixture.componentInstance as unknown as { form: { problem: { set(problem: Problem): void } } };
    const message = 'WPA3 knows one passphrase.';
    sheet.form.problem.set(new Problem('draft.refused', 'Refused.', [{ code: 'x', field: 'former', message }]));
    await fixture.whenStable();
    expect(byText(page, 'il-ssid-former [role=alert]', message)).not.toBeNull();
  });

  it('is switched off by one press, and keeps all that is said of it', async () => {
    const { page, site } = await setUp(0);
    byText(page, 'button', 'Switch off').click();
    await new Promise((resolve) => setTimeout(resolve));
    const request = TestBed.inject(HttpTestingController).expectOne((each) => each.url.endsWith('/operations'));
    const ssidId = site.sample.intent.estate.ssids[0]!.id;
    expect((request.request.body as EditRequest).operations).toEqual([
      { type: 'ssid.set', ssidId, from: { off: null }, to: { off: true } },
    ]);
  });

  it('hides the passphrase until it is asked for', async () => {
    const { field, page, fixture } = await setUp(null);
    expect(field('passphrase').type).toBe('password');
    byText(page, 'button', 'Show').click();
    await fixture.whenStable();
    expect(field('passphrase').type).toBe('text');
    byText(page, 'button', 'Hide').click();
    await fixture.whenStable();
    expect(field('passphrase').type).toBe('password');
  });
});
