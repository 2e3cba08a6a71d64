// npm run screenshots: pictures of the main views at 1280x800 from the demo data, into docs/screenshots.
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { checkNode, ensureDependencies, ensurePackages, ensureWeb, root } from './setup.mjs';

checkNode();
ensurePackages('postgresql', 'chromium');
ensureDependencies();
await ensureWeb();
const { chromium } = await import('@playwright/test');
const { startStack } = await import('./stack.mjs');

const out = join(root, 'docs', 'screenshots');
const folder = mkdtempSync(join(tmpdir(), 'lattice-shots-'));
mkdirSync(out, { recursive: true });
const stack = await startStack({ data: folder, port: 0, controlPort: 0, fast: true });
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--disable-dev-shm-usage'] });

async function open(colorScheme = 'light', viewport = { width: 1280, height: 800 }) {
  const page = await browser.newPage({ viewport, colorScheme });
  await page.goto(stack.url);
  await page.getByLabel('Mail address').fill('ida@skerrow.example');
  await page.getByLabel('Password').fill('lattice-demo-26');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('heading', { name: 'Skerrow Ferries' }).waitFor();
  return page;
}
async function go(page, site, stage) {
  await page.goto(stack.url);
  await page.getByRole('link', { name: site, exact: true }).click();
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: stage }).click();
  await page.getByRole('heading', { name: stage, exact: true }).waitFor();
}
async function choose(page, label, option) {
  await page.getByRole('combobox', { name: label }).click();
  await page.getByRole('option', { name: option }).click();
  await page.getByRole('listbox').waitFor({ state: 'hidden' });
}
const shoot = async (page, name) => {
  await page.waitForLoadState('networkidle', { timeout: 1000 }).catch(() => {}); // the event stream never idles
  await page.screenshot({ path: join(out, `${name}.png`) });
};

/** A guest network that is live at Ansel Quay, and somebody at its reception. @returns the password of the latter. */
async function guestNetwork(page) {
  const call = (method, path, body) =>
    page.evaluate(
      async ([method, path, body]) => {
        const sent = body ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {};
        const answer = await fetch(path, { method, ...sent });
        if (!answer.ok) throw new Error(`${path}: ${answer.status}`);
        return answer.json();
      },
      [method, path, body],
    );
  const siteId = (await call('GET', '/api/estate')).sites.find(({ name }) => name === 'Ansel Quay').id;
  const { id: draftId, head } = await call('POST', '/api/drafts', {});
  const { operations, mends } = await call('POST', `/api/drafts/${draftId}/guest-network`, {
    ...{ name: 'Skerrow Visitors', siteIds: [siteId], security: 'open', bands: ['2.4', '5'], ways: ['accept', 'code'] },
    ...{ visit: 480, hours: null, caps: { client: { down: 10_000, up: 2000 } }, dns: [] },
  });
  const mended = mends.flatMap(({ steps }) => steps.flatMap((step) => step.operations));
  await call('POST', `/api/drafts/${draftId}/operations`, { head, operations: [...operations, ...mended] });
  const { id } = await call('POST', '/api/rollouts', { draftId, despiteErrors: true });
  while ((await call('GET', `/api/rollouts/${id}`)).endedAt === null);
  const rin = { name: 'Rin Vale', email: 'rin@skerrow.example', siteIds: [siteId] };
  return (await call('POST', '/api/receptionists', rin)).password;
}

try {
  const page = await open();
  const password = await guestNetwork(page);
  await page.getByRole('row', { name: /^Brinmouth 1 error.* 8 / }).waitFor(); // looked at, and in step
  await page.getByRole('row', { name: /^Ansel Quay – – – / }).waitFor(); // what was rolled out is no edit any more
  await page.getByRole('button', { name: 'Branches', exact: true }).click();
  await page.getByLabel('Name', { exact: true }).fill('Harrow Point');
  await page.getByLabel('Serial number of its gateway').fill('3A1-0149-57');
  await page.getByLabel('Uplinks').fill('dhcp 100/20; wan2 cellular standby');
  await page.getByText('In the draft: ').waitFor();
  await page.getByText('address by DHCP, 100/20 Mb/s').waitFor();
  await shoot(page, 'sites');
  await page.keyboard.press('Escape');

  await go(page, 'Brinmouth', 'Intake');
  await page.getByRole('button', { name: 'Choose all 3' }).click();
  await page.getByText('bm-gw-02, bm-sw-03, bm-ap-06').waitFor();
  await shoot(page, 'intake');

  await go(page, 'Brinmouth', 'Lattice');
  await page
    .getByRole('rowheader', { name: /Passengers/ })
    .getByRole('button')
    .click();
  await page.getByText(/used, missing at bm-sw-02 port 7/).waitFor();
  await shoot(page, 'lattice');
  const view = (name) => page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name }).click();
  await go(page, 'Brinmouth', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  await shoot(page, 'wireless');
  await view('Air');
  await page.getByRole('button', { name: 'Scan…' }).first().click();
  await page.getByRole('button', { name: /^Scan with/ }).click();
  await page.getByRole('button', { name: 'Stop it' }).waitFor();
  await page.getByRole('button', { name: /^Scan with/ }).waitFor({ timeout: 120_000 });
  await page.getByRole('button', { name: 'Close the sheet' }).click();
  await choose(page, 'As heard by', 'bm-ap-02');
  await shoot(page, 'air');
  await page.goto(`${stack.url}/rules`);
  await page.getByText('Nobody but management reaches devices').first().click();
  await page.getByRole('row', { name: /Dunmere Depot/ }).waitFor();
  await shoot(page, 'shared');
  await go(page, 'Brinmouth', 'Lattice');

  await page.getByRole('button', { name: /^Mend: tag 40/ }).click();
  await page.getByText('Passengers stops at bm-sw-02 port 7').waitFor({ state: 'hidden' });
  await go(page, 'Brinmouth', 'Bench');
  await choose(page, 'Probe on SSID', 'Skerrow Passengers');
  await choose(page, 'Near access point', 'bm-ap-05');
  await page.getByRole('button', { name: 'Walk' }).click();
  await page.getByText('Arrived: the internet answers').waitFor();
  await shoot(page, 'bench');

  await go(page, 'Brinmouth', 'Rules');
  await page.getByText('Crew keeps out of the tills').click();
  await page.getByRole('region', { name: 'Crew keeps out of the tills' }).waitFor();
  await shoot(page, 'rules');
  await go(page, 'Ansel Quay', 'Rules');
  await view('Reach');
  await page.getByRole('button', { name: 'Crew to Ticketing: some traffic' }).click();
  await page.getByText('TCP 631, TCP 9100').waitFor();
  await shoot(page, 'reach');

  await go(page, 'Ansel Quay', 'Entry');
  await view('Servers');
  await page.getByRole('gridcell', { name: 'Skerrow accounts', exact: true }).click();
  await page.getByRole('combobox', { name: 'Tried by' }).click();
  await page.getByRole('option', { name: 'MAC address', exact: true }).click();
  await page.getByLabel('MAC address', { exact: true }).fill('0e:c4:60:00:00:03');
  await page.getByRole('button', { name: 'Try it' }).click();
  await page.getByText('Let in as Gate scanners').waitFor();
  await shoot(page, 'entry');
  await go(page, 'Ansel Quay', 'Paths');
  await page.getByRole('button', { name: /wan1, Tidewire.*sessions/ }).click();
  await page.getByRole('region', { name: 'aq-gw-01 Tidewire' }).waitFor();
  await shoot(page, 'paths');
  await page.goto(`${stack.url}/joined`);
  await page.getByRole('row', { name: /^Petrel spoke all 2 up/ }).waitFor();
  await view('Map');
  await choose(page, 'From', 'Petrel');
  await page.getByRole('combobox', { name: 'To', exact: true }).click();
  await page.getByRole('option', { name: 'Calder Skerry' }).click();
  await page.getByText(/^Petrel → Ansel Quay → Calder Skerry/).waitFor();
  await shoot(page, 'joined');
  await go(page, 'Petrel', 'Paths');
  await view('Rehearsal');
  await page
    .getByText(/Nobody is served for/)
    .last()
    .waitFor();
  await shoot(page, 'rehearsal');

  await go(page, 'Brinmouth', 'Guests');
  await page.getByRole('button', { name: 'Add portal' }).click();
  const portal = page.getByRole('region', { name: 'New portal', exact: true });
  await portal.getByLabel('Name', { exact: true }).fill('Passengers');
  await portal.getByLabel('Title', { exact: true }).fill('Welcome aboard');
  await portal.getByLabel('Text', { exact: true }).fill('Wi-Fi for as long as you sail with us.');
  await portal.getByLabel('Megabytes a day').fill('500');
  await portal.getByRole('checkbox', { name: 'Visit code' }).check();
  await portal.frameLocator('iframe').getByRole('heading', { name: 'Welcome aboard' }).waitFor();
  await portal.getByLabel('Name', { exact: true }).scrollIntoViewIfNeeded();
  await shoot(page, 'guests');

  await go(page, 'Brinmouth', 'Rollout');
  await page.getByRole('button', { name: 'Roll out to 1 device' }).click();
  await page.getByText('Revision 2 is live').waitFor();
  await go(page, 'Brinmouth', 'Lattice');
  await page.getByRole('button', { name: 'Add segment' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Lockers');
  await page.getByLabel('VLAN ID').fill('70');
  await page.waitForFunction(() => document.querySelector('#segment-subnet')?.value !== '');
  await page.getByRole('region', { name: 'New segment' }).getByRole('button', { name: 'Add segment' }).click();
  await page.getByRole('region', { name: 'Lockers', exact: true }).waitFor();
  await go(page, 'Brinmouth', 'Rollout');
  await page.getByText('port › 25 › tagged').first().waitFor();
  await shoot(page, 'rollout');

  await go(page, 'Brinmouth', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Crew' }).click();
  const crew = page.getByRole('region', { name: 'Skerrow Crew', exact: true });
  await crew.getByRole('checkbox', { name: 'each other' }).check();
  await crew.getByRole('button', { name: 'Put into the draft' }).click();
  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await page.getByRole('link', { name: 'Roll out…' }).click();
  await page.getByRole('button', { name: 'In waves' }).click();
  await page.getByRole('button', { name: /^Roll out to \d+ devices in 4 waves$/ }).click();
  await page.getByText('waits before the next wave').waitFor();
  await page.getByRole('button', { name: 'Stop here…' }).click();
  await shoot(page, 'waves');

  const desk = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await desk.goto(stack.url);
  await desk.getByLabel('Mail address').fill('rin@skerrow.example');
  await desk.getByLabel('Password').fill(password);
  await desk.getByRole('button', { name: 'Sign in' }).click();
  for (const name of ['Cabin 12', 'Coach party', 'Cabin 31']) {
    await desk.getByLabel('Who for').fill(name);
    await desk.getByRole('button', { name: 'Make code' }).click();
    await desk.getByRole('region', { name: 'Given' }).getByText(name).waitFor();
  }
  await shoot(desk, 'reception');

  const dark = await open('dark');
  await go(dark, 'Ansel Quay', 'Rollout');
  await dark.getByRole('button', { name: 'Start another draft' }).first().click();
  await dark.getByText('no edits').first().waitFor();
  await dark.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: 'Wireless' }).click();
  await dark.getByRole('button', { name: 'Add SSID' }).click();
  await dark.getByLabel('Name on the air').fill('Skerrow Berths');
  await choose(dark, 'Security', 'Key ring (WPA2)');
  await choose(dark, 'Segment its clients join', /Passengers/);
  await dark.getByRole('button', { name: 'Add SSID' }).last().click();
  await dark.getByRole('link', { name: 'Keys of this ring' }).click();
  await dark.getByRole('button', { name: 'Make many' }).click();
  await dark.getByLabel('How many').fill('24');
  await choose(dark, 'They lead to', 'each its own segment, by number');
  await dark.getByRole('button', { name: 'Make 24 keys, put 24 segments into the draft' }).click();
  await dark.getByRole('region', { name: 'Many keys' }).waitFor({ state: 'detached' });
  await dark.getByRole('gridcell', { name: 'Berth 7', exact: true }).first().click();
  await dark.getByRole('region', { name: 'Berth 7' }).waitFor();
  await shoot(dark, 'keys');

  const phone = await open('light', { width: 390, height: 844 });
  await go(phone, 'Calder Skerry', 'Intake');
  await phone.getByRole('button', { name: 'Find devices' }).click();
  await phone.getByRole('button', { name: 'Label', exact: true }).click();
  await phone.getByLabel('Or the label’s text, or its serial number').fill('7K4-0156-58');
  await phone.getByRole('button', { name: 'Take it in' }).click();
  await phone.getByText(/is claimed as/).waitFor();
  await shoot(phone, 'intake-phone');
} finally {
  await browser.close();
  await stack.stop();
  rmSync(folder, { recursive: true, force: true });
}
