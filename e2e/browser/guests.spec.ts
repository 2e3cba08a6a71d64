import { readFileSync } from 'node:fs';
import type { Browser, Page } from '@playwright/test';
import type { Estate } from '../system/estate';
import { Desk, expect, test, inOrder } from './fixtures';

inOrder();

const SSID = 'Skerrow Visitors';
const PAGE = 'http://www.skerrow.example/harbour';
/** A name stands between signs that keep its direction apart. */
const ACCOUNT = /^Sign in with .Pier account.$/;

const LOGO = `<svg xmlns="http://www.w3.org/2000/svg" width="300" height="120" onload="document.title='gulls'">
  <script>document.title = 'gulls'</script><rect width="300" height="120" fill="#0c5560"/></svg>`;

/** A guest’s phone, which asks for pages through the AP that holds it. */
async function phone(browser: Browser, locale = 'en-GB'): Promise<Page> {
  const context = await browser.newContext({ viewport: { width: 390, height: 844 }, locale, isMobile: true });
  return context.newPage();
}

/** One of the clients at Brinmouth looks for a network. @returns its MAC address. */
async function joins(estate: Estate, which: number, ssid = SSID): Promise<string> {
  const { id } = await estate.site('Brinmouth');
  const { clients } = await estate.call('GET', `/api/sites/${id}/air-clients`);
  const mac = clients.map((client: { mac: string }) => client.mac).sort()[which];
  await estate.tell({ do: 'look-for', mac, ssid });
  return mac;
}

/** Adds a portal with both ways in, and an open SSID whose guests it holds; rolls both out. */
async function addGuestNetwork(desk: Desk, page: Page): Promise<void> {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Guests');
  await expect(page.getByText('No portal yet.', { exact: false })).toBeVisible();
  await desk.press('Add portal');
  const sheet = desk.sheet('New portal');
  await sheet.getByLabel('Name', { exact: true }).fill('Visitors');
  await sheet.getByRole('checkbox', { name: 'Visit code' }).check();
  const kinds = sheet.getByLabel('Kinds of visit codes that are given often');
  await kinds.fill('Cabin for two: 2 d');
  await kinds.fill('Cabin for two: 2 d, 1 device\nStall: soon');
  await expect(sheet.getByText('“Stall: soon”: write Day guest: 1 d, 2 devices.')).toBeVisible();
  await kinds.fill('Cabin for two: 2 d, 1 device\nStall: 30 d, any');
  await sheet.getByLabel('A visit lasts').fill('soon');
  await expect(sheet.getByText('Write 90 min, 8 h or 2 d.')).toBeVisible();
  await sheet.getByLabel('A visit lasts').fill('2 h');
  await sheet.getByRole('combobox', { name: 'Languages' }).click();
  await page.getByRole('option', { name: 'Deutsch' }).click();
  await page.keyboard.press('Escape');
  await sheet.getByLabel('Title', { exact: true }).fill('Aboard <b>with</b> Skerrow');
  await sheet.getByLabel('Terms of use').fill('Be kind to others on board.');
  await sheet.getByRole('checkbox', { name: 'Guests have to agree' }).check();
  await sheet.getByLabel('Reached without signing in').fill('timetable.skerrow.example');
  // What is pressed cannot be read on that ground: another is proposed.
  await sheet.getByLabel('What is pressed', { exact: true }).fill('#e0d8c8');
  await sheet.getByRole('button', { name: /^Take #/ }).click();
  const preview = sheet.frameLocator('iframe');
  await expect(preview.getByRole('heading', { name: 'Aboard <b>with</b> Skerrow' })).toBeVisible();
  await desk.expectAccessible();
  await sheet.getByRole('button', { name: 'Add portal' }).click();
  await expect(desk.sheet('Visitors').getByText('Nothing leads to it here yet', { exact: false })).toBeVisible();

  await desk.stage('Wireless');
  await desk.press('Add SSID');
  const ssid = desk.sheet('New SSID');
  await ssid.getByLabel('Name on the air').fill(SSID);
  await ssid.getByRole('combobox', { name: 'Security' }).click();
  await page.getByRole('option', { name: /^Open/ }).click();
  await ssid.getByRole('combobox', { name: 'Segment' }).click();
  await page.getByRole('option', { name: /Passengers/ }).click();
  await ssid.getByRole('combobox', { name: 'Guests sign in at' }).click();
  await page.getByRole('option', { name: 'Visitors' }).click();
  await ssid.getByRole('button', { name: 'Add SSID' }).click();
  await desk.press(/^Mend: tag 40/);
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
}

test('a guest’s phone is sent to the portal in its language, agrees, is let in, and its visit is ended again', async ({
  desk,
  page,
  estate,
  browser,
}) => {
  await addGuestNetwork(desk, page);
  const mac = await joins(estate, 0);
  await expect.poll(() => estate.clientsOn(SSID)).toBe(1);

  const guest = await phone(browser, 'de-DE');
  const open = (url: string) => guest.goto(`${estate.controlUrl}/as/${mac}/${url}`);
  // The walled garden is open, what is encrypted is left alone.
  expect((await open('http://timetable.skerrow.example/'))!.status()).toBe(200);
  expect((await open('https://www.skerrow.example/'))!.status()).toBe(504);
  await open(PAGE);
  await expect(guest.getByRole('heading', { name: 'Aboard <b>with</b> Skerrow' })).toBeVisible();
  await expect(guest.getByRole('button', { name: 'Ins Internet' })).toBeVisible();
  await guest.getByRole('link', { name: 'English' }).click();
  await guest.getByRole('link', { name: 'Terms of use' }).first().click();
  await expect(guest.getByText('Be kind to others on board.')).toBeVisible();
  await guest.getByRole('link', { name: 'Back' }).click();
  await guest.getByRole('checkbox', { name: 'I agree to the terms of use.' }).first().check();
  await guest.getByRole('button', { name: 'Go online' }).click();
  // It moves on by itself once the AP lets it in.
  await expect(guest.getByRole('heading', { name: 'You are online' })).toBeVisible();
  await expect(guest.getByRole('link', { name: 'Go on to www.skerrow.example' })).toHaveAttribute('href', PAGE);
  expect((await open('https://www.skerrow.example/'))!.status()).toBe(200);

  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: SSID }).click();
  await desk.press('Walk');
  await expect(page.getByText('Held back by “Visitors”').first()).toBeVisible();
  await page.getByRole('checkbox', { name: 'Has signed in as a guest' }).check();
  await expect(page.getByText('Let in by “Visitors”').first()).toBeVisible();

  await desk.stage('Guests');
  await desk.press('Visits');
  const row = page.getByRole('row', { name: new RegExp(mac) });
  await expect(row).toContainText('let in');
  await row.getByRole('gridcell', { name: mac, exact: true }).click();
  await desk.expectAccessible();
  await desk.sheet(mac).getByRole('button', { name: 'End visit' }).click();
  await expect(row).toContainText('ended');
  await expect.poll(async () => (await open('https://www.skerrow.example/'))!.status()).toBe(504);
  await desk.sheet(mac).getByRole('button', { name: 'Keep this device out' }).click();
  const again = desk.sheet(mac).getByRole('button', { name: 'Let it try again' });
  await expect(again).toBeVisible();
  await open(PAGE);
  await expect(guest.getByText('You cannot be let in. Please ask at the desk.')).toBeVisible();
  await again.click();
  await desk.sheet(mac).getByRole('button', { name: 'Erase this person…' }).click();
  await expect(desk.sheet(mac).getByText('GDPR article 17', { exact: false })).toBeVisible();
  await desk.sheet(mac).getByRole('button', { name: 'Erase this person now' }).click();
  await expect(row).toHaveCount(0);
  await guest.context().close();
});

test('a visit code opens the portal for one phone, and closes it again when it is taken back', async ({
  desk,
  page,
  estate,
  browser,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Guests');
  await desk.press('Visit codes');
  await desk.press('Make codes');
  const sheet = desk.sheet('New visit codes');
  await sheet.getByLabel('What for').fill('Cabin 12');
  await sheet.getByLabel('Lasts').fill('1 min');
  await expect(sheet.getByText('five minutes at least', { exact: false })).toBeVisible();
  await sheet.getByRole('combobox', { name: 'Kind' }).click();
  await page.getByRole('option', { name: 'Cabin for two: 2 d, 1 device' }).click();
  await expect(sheet.getByLabel('Lasts')).toHaveValue('2 d');
  await desk.expectAccessible();
  await sheet.getByRole('button', { name: 'Make code' }).click();
  const code = (await sheet.getByRole('listitem').locator('b').textContent())!;
  expect(code).toMatch(/^[A-HJ-NP-TV-Z2-9]{4}-[A-HJ-NP-TV-Z2-9]{4}$/);
  await sheet.getByRole('button', { name: 'Close' }).click();

  const mac = await joins(estate, 1);
  const guest = await phone(browser);
  const open = (url: string) => guest.goto(`${estate.controlUrl}/as/${mac}/${url}`);
  await expect.poll(async () => (await open(PAGE))!.url()).not.toContain('/as/');
  const way = guest.locator('form', { has: guest.getByLabel('Visit code') });
  await way.getByLabel('Visit code').fill('ABCD-EFGH');
  await way.getByRole('checkbox').check();
  await way.getByRole('button', { name: 'Use this code' }).click();
  await expect(guest.getByRole('alert')).toHaveText('This code is not right. Look at it again.');
  await way.getByLabel('Visit code').fill(code.toLowerCase());
  await way.getByRole('checkbox').check();
  await way.getByLabel('Visit code').press('Enter');
  await expect(guest.getByRole('heading', { name: 'You are online' })).toBeVisible();
  expect((await open('https://www.skerrow.example/'))!.status()).toBe(200);

  const row = page.getByRole('row', { name: /Cabin 12/ });
  await expect(row).toContainText('in use');
  await row.getByRole('gridcell', { name: 'Cabin 12', exact: true }).click();
  const one = desk.sheet('Cabin 12');
  await one.getByRole('button', { name: 'Show the code' }).click();
  await expect(one.getByText(code)).toBeVisible();
  await expect(one.getByText(mac)).toBeVisible();
  await one.getByRole('button', { name: 'Take back' }).click();
  await expect(row).toContainText('taken back');
  await expect.poll(async () => (await open('https://www.skerrow.example/'))!.status()).toBe(504);
  await page.getByRole('button', { name: 'Bring back' }).first().click();
  await expect(row).toContainText('in use');
  // Moved to another site it opens nothing here any more.
  await one.getByRole('combobox', { name: 'Opens the portal at' }).click();
  await page.getByRole('option', { name: 'Ansel Quay' }).click();
  await page.keyboard.press('Escape');
  await one.getByRole('button', { name: 'Move it there' }).click();
  await expect(page.getByText('Moved; visits with it', { exact: false })).toBeVisible();
  await expect(one.getByRole('button', { name: 'Move it there' })).toBeHidden();
  await page.getByRole('button', { name: 'Move back' }).click();
  await expect(one.getByRole('combobox', { name: 'Opens the portal at' })).not.toContainText('Ansel Quay');

  // Many from a list: what is not good is said at its row, and what was made is picked.
  await desk.press('From a list…');
  const list = desk.sheet('Visit codes from a list');
  await list.getByLabel('Or typed, pasted').fill('for,lasts,devices\nCabin 41,2 d,4\nCabin 42,soon,4\nCabin 43,,any\n');
  await list.getByRole('button', { name: 'Look at it' }).click();
  await expect(list.getByText('2 codes to make, 1 not good.')).toBeVisible();
  await desk.expectAccessible();
  await list.getByRole('button', { name: 'Make the 2 good codes' }).click();
  await expect(page.getByRole('button', { name: 'Print 2' })).toBeVisible();
  const coming = page.waitForEvent('download');
  await page.getByRole('button', { name: '2 as PDF' }).click();
  const file = await coming;
  expect(file.suggestedFilename()).toBe('visit-codes.pdf');
  expect(readFileSync(await file.path(), 'latin1')).toMatch(/^%PDF-1/);
  await expect(page.getByRole('row', { name: /Cabin 43/ })).toContainText('0 of any');
  await guest.context().close();
});

test('somebody at a reception gives a code on a screen of their own; the slip’s QR code brings it to the portal', async ({
  desk,
  page,
  estate,
  browser,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Guests');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Reception' }).click();
  await desk.press('Add somebody');
  const added = desk.sheet('New person at a reception');
  await added.getByLabel('Name', { exact: true }).fill('Rin Vale');
  await added.getByLabel('Mail address, to sign in by').fill('rin at the desk');
  await added.getByRole('button', { name: 'Add them' }).click();
  await expect(added.getByText('Write a mail address', { exact: false })).toBeVisible();
  await added.getByLabel('Mail address, to sign in by').fill('rin@skerrow.example');
  await desk.expectAccessible();
  await added.getByRole('button', { name: 'Add them' }).click();
  const password = (await desk.sheet('Rin Vale').locator('b.password').textContent())!;

  const context = await browser.newContext({ viewport: { width: 390, height: 844 } });
  const rin = await context.newPage();
  await rin.goto(estate.address);
  await rin.getByLabel('Mail address').fill('rin@skerrow.example');
  await rin.getByLabel('Password').fill(password);
  await rin.getByRole('button', { name: 'Sign in' }).click();
  await expect(rin.getByRole('heading', { name: 'Reception' })).toBeVisible();
  // Nothing else is hers, whatever she opens.
  await rin.goto(`${estate.address}/rollout`);
  await expect(rin.getByRole('heading', { name: 'Reception' })).toBeVisible();
  await expect(rin.getByRole('navigation')).toHaveCount(0);
  await expect(rin.getByLabel('Who for')).toBeVisible();
  await rin.keyboard.press('n');
  await rin.keyboard.type('Cabin 31');
  const kinds = rin.getByRole('group', { name: 'Kind' });
  await kinds.getByRole('button', { name: 'Stall' }).click();
  await expect(rin.getByRole('button', { name: 'any', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await kinds.getByRole('button', { name: 'Cabin for two' }).click();
  await rin.getByRole('button', { name: '3 d', exact: true }).click();
  await rin.getByRole('button', { name: 'Make code' }).click();
  const given = rin.getByRole('region', { name: 'Given' });
  await expect(given.getByText('3 d from its first use, 1 device')).toBeVisible();
  await expect(given.getByRole('img', { name: `Joins ${SSID}` })).toBeVisible();
  const code = (await given.locator('[data-code]').textContent())!.trim();
  expect(await rin.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await new Desk(rin, estate).expectAccessible();
  await rin.evaluate(() => {
    window.print = () => document.body.setAttribute('data-printed', document.querySelector('.slips')!.textContent);
  });
  await given.getByRole('button', { name: 'Print slip' }).click();
  await expect(rin.locator('body')).toHaveAttribute('data-printed', new RegExp(code));
  await given.getByRole('button', { name: 'Send…' }).click();
  await given.getByLabel('Send it to').fill('guest@skerrow.example');
  await given.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(given.getByText('Nothing is said of how mail is sent', { exact: false })).toBeVisible();
  await given.getByRole('button', { name: 'Put away' }).click();
  await rin.getByRole('button', { name: 'Show the last one again: Cabin 31' }).click();
  await expect(given.locator('[data-code]')).toHaveText(code);

  // A guest looks at the second QR code before anything else: the code waits for the first page.
  const mac = await joins(estate, 2);
  const guest = await phone(browser);
  const { portalUrl } = await (await rin.request.get(`${estate.address}/api/reception`)).json();
  await guest.goto(`${portalUrl}/with/${code.replace('-', '')}`);
  const elsewhere = await guest.getByRole('link', { name: 'Sign in' }).getAttribute('href');
  await expect
    .poll(async () => (await guest.goto(`${estate.controlUrl}/as/${mac}/${elsewhere}`))!.url())
    .toBe(`${portalUrl}/`);
  const way = guest.locator('form', { has: guest.getByLabel('Visit code') });
  await expect(way.getByLabel('Visit code')).toHaveValue(code);
  await way.getByRole('checkbox').check();
  await way.getByRole('button', { name: 'Use this code' }).click();
  await expect(guest.getByRole('heading', { name: 'You are online' })).toBeVisible();

  await rin.getByRole('button', { name: /^Visits/ }).click();
  const visit = rin.getByRole('listitem').filter({ hasText: 'Cabin 31' });
  await expect(visit).toContainText('let in');
  await visit.getByRole('button', { name: 'End' }).click();
  await expect(visit).toContainText('ended');

  // Taken away, she is out at once.
  await desk.sheet('Rin Vale').getByRole('button', { name: 'Take away' }).click();
  await desk.sheet('Rin Vale').getByRole('button', { name: 'Take away for good' }).click();
  await expect(page.getByText('Nobody looks after guests of this site yet', { exact: false })).toBeVisible();
  await rin.goto(estate.address);
  await expect(rin.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await context.close();
  await guest.context().close();
});

test('a guest network is made in one go: its parts are seen before, and hold a guest’s phone after', async ({
  desk,
  page,
  estate,
  browser,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Guests');
  await desk.press('Add guest network');
  const sheet = desk.sheet('New guest network');
  await expect(sheet.getByText('Say its name and where it is to be.')).toBeVisible();
  await sheet.getByLabel('Name on the air').fill('Skerrow Lounge');
  const parts = sheet.getByRole('region', { name: 'What it is made of' });
  await expect(parts.getByRole('listitem').filter({ hasText: 'Guests never reach private space' })).toBeVisible();
  await expect(parts.getByRole('listitem').filter({ hasText: /^ ?SSID/ })).toContainText('always on the air');
  await sheet.getByLabel('Name servers').fill('10.0.0.300');
  await expect(sheet.getByText(/10\.0\.0\.300/)).toBeVisible();
  await sheet.getByLabel('Name servers').fill('198.51.100.53');
  await expect(parts.getByText('names asked of 198.51.100.53', { exact: false })).toBeVisible();
  await desk.expectAccessible();
  await sheet.getByRole('button', { name: /^Put \d+ edits into the draft$/ }).click();
  await expect(desk.sheet('Skerrow Lounge')).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);

  const mac = await joins(estate, 0, 'Skerrow Lounge');
  await expect.poll(() => estate.clientsOn('Skerrow Lounge')).toBe(1);
  const guest = await phone(browser);
  await expect.poll(async () => (await guest.goto(`${estate.controlUrl}/as/${mac}/${PAGE}`))!.url()).toMatch(/\/$/);
  await guest.getByRole('button', { name: 'Go online' }).click();
  await expect(guest.getByRole('heading', { name: 'You are online' })).toBeVisible();

  await desk.stage('Rules');
  await expect(page.getByText(/Skerrow Lounge/).first()).toBeVisible();
  await guest.context().close();
});

test('it is said by which server mail goes, and tried; a code goes to a guest by mail, and opens the portal', async ({
  desk,
  page,
  estate,
  browser,
}) => {
  const caught = async () => (await fetch(`${estate.controlUrl}/mail`)).json();
  const { port } = await caught();
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Guests');
  const views = page.getByRole('group', { name: 'What is shown' });
  await views.getByRole('button', { name: 'Mail' }).click();
  await expect(page.getByText('No mail is sent yet.', { exact: false })).toBeVisible();
  await page.getByLabel('Server', { exact: true }).fill('127.0.0.1');
  await page.getByLabel('TCP port').fill(String(port));
  await page.getByRole('combobox', { name: 'Encryption' }).click();
  await page.getByRole('option', { name: /^none/ }).click();
  await page.getByLabel('Mails are from').fill('guests');
  await page.getByRole('button', { name: 'Keep it so' }).click();
  await expect(page.getByText('Write a mail address, such as guests@skerrow.example.')).toBeVisible();
  await page.getByLabel('Mails are from').fill('guests@skerrow.example');
  await page.getByRole('button', { name: 'Keep it so' }).click();
  const whom = page.getByLabel('Try it: send a mail to');
  await whom.fill('somebody@nobody.example');
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(page.getByText('550 No such mailbox')).toBeVisible();
  await whom.fill('ida@skerrow.example');
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(page.getByText('127.0.0.1 took the mail to ida@skerrow.example.')).toBeVisible();
  await desk.expectAccessible();

  await views.getByRole('button', { name: 'Visit codes' }).click();
  await page.getByRole('gridcell', { name: 'Cabin 12', exact: true }).click();
  const sheet = desk.sheet('Cabin 12');
  await sheet.getByLabel('Send it to').fill('guest@skerrow.example');
  await sheet.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(sheet.getByText('took the mail to guest@skerrow.example', { exact: false })).toBeVisible();
  const reader = await browser.newPage();
  await reader.goto(`${estate.controlUrl}/mailbox`);
  const letter = reader.getByRole('article').filter({ hasText: 'guest@skerrow.example' });
  await expect(letter.getByRole('heading')).toHaveText('Wi-Fi at Brinmouth');
  await letter.getByRole('link', { name: /\/with\// }).click();
  await expect(reader.getByRole('link', { name: 'Sign in' })).toHaveAttribute('href', 'http://192.0.2.1/');
  await reader.close();
});

test('a guest asks somebody to be let in, is refused, and signs in by a text message; another is let in by a yes', async ({
  desk,
  page,
  estate,
  browser,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Guests');
  await page.getByRole('gridcell', { name: 'Visitors', exact: true }).click();
  const sheet = desk.sheet('Visitors');
  await sheet.getByRole('checkbox', { name: 'Code by text message' }).check();
  await sheet.getByRole('checkbox', { name: 'Somebody says yes' }).check();
  await sheet.getByRole('combobox', { name: 'Asked for a name' }).click();
  await page.getByRole('option', { name: 'yes, has to be said' }).click();
  await sheet.getByLabel('Who may say yes: mail domains').fill('nobody');
  await sheet.getByRole('button', { name: 'Put into the draft' }).click();
  await expect(sheet.getByText('“nobody” is no mail domain', { exact: false })).toBeVisible();
  await sheet.getByLabel('Who may say yes: mail domains').fill('skerrow.example');
  await sheet
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'logo.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(LOGO) });
  await expect(sheet.getByText('640 × 256')).toBeVisible();
  await sheet.getByRole('combobox', { name: 'Step of the portal' }).click();
  await page.getByRole('option', { name: 'Whoever says yes' }).click();
  await expect(
    sheet.frameLocator('iframe').getByRole('heading', { name: 'Rin Marlow asks to be let in' }),
  ).toBeVisible();
  await desk.putIntoDraft(sheet);
  await desk.expectAccessible();
  const cannot = desk.consequences.getByText('“Visitors” needs text messages, and none can be sent');
  await expect(cannot).toBeVisible();
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Mail' }).click();
  await page.getByLabel('Address of the gateway').fill(`${estate.controlUrl}/texts`);
  await page.getByLabel('Who asks is said in the header field').fill('X-Key');
  await page.getByLabel('With the value').fill('capstan and cleat');
  await page.getByRole('button', { name: 'Keep the gateway so' }).click();
  const number = page.getByLabel('Try it: send a message to');
  await number.fill('01 555');
  await number.press('Enter');
  await expect(page.getByText('Write a phone number with its country', { exact: false })).toBeVisible();
  await number.fill('+353 1 555 0199');
  await number.press('Enter');
  await expect(page.getByText('127.0.0.1 took the message to +35315550199.')).toBeVisible();
  await expect(cannot).toBeHidden();
  await desk.expectAccessible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out$/);

  const caught = async () => (await fetch(`${estate.controlUrl}/mail`)).json();
  /** The page that whoever was asked last answers at, in a browser of their own. */
  const sponsor = async (subject: string): Promise<Page> => {
    const about = async () =>
      (await caught()).mails.find((mail: { subject: string }) => mail.subject.includes(subject))?.text;
    await expect.poll(about).toBeTruthy();
    const reader = await browser.newPage();
    await reader.goto(/http\S+\/answer\/\S+/.exec(await about())![0]);
    return reader;
  };
  const guest = await phone(browser, 'de-DE');
  const mac = await joins(estate, 3);
  const open = (who: Page, of: string) => async () =>
    (await who.goto(`${estate.controlUrl}/as/${of}/${PAGE}`))!.url().includes('/as/');
  await expect.poll(open(guest, mac)).toBe(false);
  // The logo that was drawn from lines is a picture, and nothing else.
  const logo = guest.locator('img.logo');
  await expect.poll(() => logo.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(640);
  await guest.getByRole('link', { name: 'Jemanden bitten, Sie einzulassen' }).click();
  await guest.getByLabel('Mailadresse der Person, die Sie besuchen').fill('ida@skerrow.example');
  await guest.getByLabel('Name').fill('Rin Marlow');
  await guest.getByRole('checkbox').check();
  await guest.getByRole('button', { name: 'Fragen' }).click();
  await expect(guest.getByRole('heading', { name: 'Warten auf eine Antwort' })).toBeVisible();
  await guest.reload(); // who looks again too early is told what is waited for
  await expect(guest.getByText(/ida@skerrow\.example.* wurde gefragt/)).toBeVisible();
  const no = await sponsor('Rin Marlow');
  await expect(no.getByRole('heading', { name: 'Rin Marlow asks to be let in' })).toBeVisible();
  await new Desk(no, estate).expectAccessible();
  await no.getByRole('button', { name: 'Refuse' }).click();
  await expect(no.getByRole('heading', { name: 'Refused.' })).toBeVisible();
  // The guest’s page moves on by itself.
  await expect(guest.getByRole('heading', { name: 'Die Antwort ist nein' })).toBeVisible();
  await guest.getByRole('button', { name: 'Einen anderen Weg wählen' }).click();
  await guest.getByRole('link', { name: 'Mit Ihrer Telefonnummer anmelden' }).click();
  await guest.getByLabel('Name').fill('Rin Marlow');
  await guest.getByLabel('Ihre Telefonnummer').fill('+353 1 555 0123');
  await guest.getByRole('checkbox').check();
  await guest.getByRole('button', { name: 'Code zuschicken' }).click();
  await expect(guest.getByRole('heading', { name: 'Geben Sie Ihren Code ein' })).toBeVisible();
  const { texts } = await (await fetch(`${estate.controlUrl}/texts`)).json();
  await guest.getByLabel('Code', { exact: true }).fill(/\d{6}/.exec(texts[0].text)![0]);
  await guest.getByRole('button', { name: 'Weiter' }).click();
  await expect(guest.getByRole('heading', { name: 'Sie sind im Internet' })).toBeVisible();

  const other = await phone(browser);
  const second = await joins(estate, 4);
  await expect.poll(open(other, second)).toBe(false);
  await other.getByRole('link', { name: 'Ask somebody to let you in' }).click();
  await other.getByLabel('Mail address of whom you visit').fill('ida@skerrow.example');
  await other.getByLabel('Name').fill('Mel Byrne');
  await other.getByRole('checkbox').check();
  await other.getByRole('button', { name: 'Ask', exact: true }).click();
  const yes = await sponsor('Mel Byrne');
  await yes.getByLabel('For how long').selectOption({ label: '1 hour' });
  await yes.getByRole('button', { name: 'Let in' }).click();
  await expect(yes.getByRole('heading', { name: /^Let in until/ })).toBeVisible();
  await expect(other.getByRole('heading', { name: 'You are online' })).toBeVisible();

  await desk.stage('Guests');
  await desk.press('Visits');
  const row = page.getByRole('row', { name: /Mel Byrne/ });
  await expect(row).toContainText('ida@skerrow.example');
  await row.getByRole('gridcell', { name: 'Mel Byrne' }).click();
  await expect(desk.sheet(second).getByText('ida@skerrow.example, who said yes')).toBeVisible();
  await expect(page.getByRole('row', { name: /Rin Marlow/ })).toContainText('+35315550123');
  await guest.context().close();
  await other.context().close();
});

test('a guest signs in by a name and a password; how its visit is limited is said where it is walked', async ({
  desk,
  page,
  estate,
  browser,
}) => {
  const user = { name: 'Marn.Kell', password: 'grey seal 12', groups: [], until: null, most: null, off: false };
  await fetch(`${estate.address}/api/users`, {
    ...{ method: 'POST', body: JSON.stringify([{ ...user, note: '' }]) },
    headers: { cookie: estate.cookie, 'content-type': 'application/octet-stream' },
  });
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Guests');
  await page.getByRole('gridcell', { name: 'Visitors', exact: true }).click();
  const sheet = desk.sheet('Visitors');
  await sheet.getByRole('checkbox', { name: 'Name and password' }).check();
  await expect(sheet.getByRole('combobox', { name: 'Who knows names and passwords' })).toContainText(
    'kept under Entry',
  );
  await sheet.getByLabel('Then waits').fill('soon');
  await expect(sheet.getByText('Write 90 min, 8 h or 2 d.')).toBeVisible();
  await sheet.getByLabel('Then waits').fill('2 h');
  await sheet.getByLabel('Ends without use after').fill('30 min');
  await sheet.getByLabel('Down, each').fill('10');
  await sheet.getByRole('combobox', { name: 'Step of the portal' }).click();
  await page.getByRole('option', { name: 'Gives name and password' }).click();
  await expect(sheet.frameLocator('iframe').getByRole('heading', { name: 'Sign in with a name' })).toBeVisible();
  await desk.putIntoDraft(sheet);
  await desk.expectAccessible();
  await expect(desk.consequences.getByText('send passwords that others on the air can read')).toBeVisible();
  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: SSID }).click();
  await page.getByRole('checkbox', { name: 'Has signed in as a guest' }).check();
  await desk.press('Walk');
  await expect(page.getByText('Signs in at “Visitors”').first()).toBeVisible();
  await expect(page.getByText('lets itself in again 2 h later', { exact: false }).first()).toBeVisible();
  await desk.stage('Rollout');
  // The rate is told to APs, the rest is the controller’s own.
  await desk.rollOutAll(/^Roll out to \d+ devices$/);

  const guest = await phone(browser);
  const mac = await joins(estate, 5);
  await expect
    .poll(async () => (await guest.goto(`${estate.controlUrl}/as/${mac}/${PAGE}`))!.url().includes('/as/'))
    .toBe(false);
  await guest.getByRole('link', { name: 'Sign in with a name and password' }).click();
  const signIn = async (password: string): Promise<void> => {
    await guest.getByLabel('Name to sign in with').fill('marn.kell');
    await guest.getByLabel('Password').fill(password);
    await guest.getByRole('checkbox').check();
    await guest.getByRole('button', { name: 'Sign in' }).click();
  };
  await signIn('grey seal 13');
  await expect(guest.getByRole('alert')).toHaveText('That name and password are not right together.');
  await new Desk(guest, estate).expectAccessible();
  await signIn('grey seal 12');
  await expect(guest.getByRole('heading', { name: 'You are online' })).toBeVisible();
  await desk.stage('Guests');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Visits' }).click();
  await expect(page.getByRole('row', { name: new RegExp(mac) })).toContainText('name and password');
  await guest.context().close();
});

test('ports lead guests to a portal, and a guest by cable signs in there with an account elsewhere', async ({
  desk,
  page,
  estate,
  browser,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Guests');
  await page.getByRole('gridcell', { name: 'Visitors', exact: true }).click();
  const portal = desk.sheet('Visitors');
  await portal.getByRole('checkbox', { name: 'Account elsewhere' }).check();
  await portal.getByLabel('Account elsewhere, as guests know it').fill('Pier account');
  await portal.getByLabel('Its issuer').fill('http://accounts.pier.example');
  await portal.getByLabel('Client id there').fill('skerrow-guests');
  await portal.getByLabel('Client secret').fill('bollard and fender');
  await portal.getByRole('button', { name: 'Put into the draft' }).click();
  await expect(portal.getByText('its address has to begin with https', { exact: false })).toBeVisible();
  await portal.getByLabel('Its issuer').fill(`${estate.controlUrl}/accounts`);
  await portal.getByRole('combobox', { name: 'Phones’ own small window' }).click();
  await page.getByRole('option', { name: 'stays closed' }).click();
  await portal.getByLabel('Names that phones look at').fill('online.skerrow.example');
  await portal.getByLabel('Asked again after').fill('30 d');
  await portal.getByLabel('Megabytes a day').fill('500');
  await portal.getByLabel('Then goes on at').fill('256');
  await desk.putIntoDraft(portal);
  await expect(portal.getByText('Empty keeps it')).toBeVisible();
  await portal.getByRole('combobox', { name: 'Step of the portal' }).click();
  await page.getByRole('option', { name: 'Has an account' }).click();
  const preview = portal.frameLocator('iframe');
  await expect(preview.getByRole('heading', { name: ACCOUNT })).toBeVisible();
  await desk.expectAccessible();

  await desk.stage('Lattice');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Ports' }).click();
  await page.getByLabel('Filter').fill('bm-sw-01');
  await page.getByRole('row', { name: /Choose bm-sw-01 port 13 / }).click();
  const port = desk.sheet('bm-sw-01 port 13');
  const choose = async (label: string, option: string | RegExp): Promise<void> => {
    const answered = page.waitForResponse((response) => response.url().includes('/operations'));
    await port.getByRole('combobox', { name: label, exact: true }).click();
    await page.getByRole('option', { name: option }).click();
    await answered;
  };
  await choose('Untagged', 'Passengers');
  await choose('Guests', 'Visitors');
  await expect(port.getByText('Whatever is plugged in reaches nothing until it is let in there')).toBeVisible();
  await desk.expectAccessible();

  await desk.stage('Bench');
  const pick = async (label: string, option: string): Promise<void> => {
    await page.getByRole('combobox', { name: label, exact: true }).first().click();
    await page.getByRole('option', { name: option, exact: true }).click();
  };
  await pick('Probe', 'at a port');
  await pick('Of device', 'bm-sw-01');
  await pick('Port', '13');
  const drafted = page.getByRole('region', { name: 'Walk on the draft' });
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  await expect(drafted.getByText('Held back by “Visitors”')).toBeVisible();
  await page.getByRole('checkbox', { name: 'Has signed in as a guest' }).check();
  await desk.press('Walk again');
  await expect(drafted.getByText('Arrived: the internet answers')).toBeVisible();
  await expect(drafted.getByText('After 500 MB a day it goes on at 256 kb/s.', { exact: false })).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);

  const mac = '0e:c4:70:00:00:21';
  await estate.tell({ do: 'plug', mac, at: '5C2-0121-53:13', name: 'visitor-laptop' });
  const guest = await browser.newPage();
  // Its own small window stays closed; the first page that is asked for leads to the portal.
  await expect
    .poll(async () => (await fetch(`${estate.controlUrl}/as/${mac}/http://online.skerrow.example/`)).status)
    .toBe(200);
  expect(await (await fetch(`${estate.controlUrl}/window/${mac}`)).json()).toEqual({ opens: null });
  await expect
    .poll(async () => (await guest.goto(`${estate.controlUrl}/as/${mac}/${PAGE}`))!.url().includes('/as/'))
    .toBe(false);
  await guest.getByRole('link', { name: ACCOUNT }).click();
  await guest.getByRole('checkbox').check();
  await new Desk(guest, estate).expectAccessible();
  await guest.getByRole('button', { name: ACCOUNT }).click();
  await guest.getByLabel('Mail address').fill('tove@gull.example');
  await guest.getByLabel('Password').fill('sea pink 5');
  await guest.getByRole('button', { name: 'Sign in' }).click();
  await expect(guest.getByRole('heading', { name: 'You are online' })).toBeVisible();
  await desk.stage('Guests');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Visits' }).click();
  const row = page.getByRole('row', { name: /visitor-laptop/ });
  await expect(row).toContainText('Tove Lindqvist');
  await expect(row).toContainText('an account');
  await guest.close();
});
