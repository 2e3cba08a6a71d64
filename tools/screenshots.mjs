// npm run screenshots: pictures of the main views at 1280x800 from the demo data, into docs/screenshots.
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { checkNode, ensureDependencies, ensurePackages, ensureWeb, root } from './setup.mjs';

checkNode();
ensurePackages('postgresql', 'chromium');
ensureDependencies();
ensureWeb();
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
}
const shoot = async (page, name) => {
  await page.waitForLoadState('networkidle', { timeout: 1000 }).catch(() => {}); // the event stream never idles
  await page.screenshot({ path: join(out, `${name}.png`) });
};

try {
  const page = await open();
  await page.getByRole('cell', { name: '8', exact: true }).waitFor(); // Brinmouth is in step
  await shoot(page, 'sites');

  await go(page, 'Brinmouth', 'Intake');
  await page.getByRole('button', { name: 'Choose all 3' }).click();
  await page.getByText('bm-gw-02, bm-sw-03, bm-ap-06').waitFor();
  await shoot(page, 'intake');

  await go(page, 'Brinmouth', 'Lattice');
  await page
    .getByRole('rowheader', { name: /Passengers/ })
    .getByRole('button')
    .click();
  await page.getByText('1 crossing is missing').waitFor();
  await shoot(page, 'lattice');

  await go(page, 'Brinmouth', 'Wireless');
  await page.getByRole('button', { name: 'Skerrow Passengers' }).click();
  await shoot(page, 'wireless');

  await page.getByRole('button', { name: /^Mend: tag 40/ }).click();
  await page.getByText('Nothing is inconsistent here.').waitFor();
  await go(page, 'Brinmouth', 'Bench');
  await choose(page, 'Probe on SSID', 'Skerrow Passengers');
  await choose(page, 'Near access point', 'bm-ap-05');
  await page.getByRole('button', { name: 'Walk' }).click();
  await page.getByText('Arrived: the internet answers').waitFor();
  await shoot(page, 'bench');

  await go(page, 'Brinmouth', 'Rollout');
  await page.getByRole('button', { name: 'Roll out to 1 device' }).click();
  await page.getByText('Revision 1 is live').waitFor();
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

  const dark = await open('dark');
  await go(dark, 'Ansel Quay', 'Lattice');
  await dark.getByRole('gridcell').getByRole('button', { name: 'Passengers, aq-sw-01 port 3: tagged' }).click();
  await shoot(dark, 'lattice-dark');

  const phone = await open('light', { width: 390, height: 844 });
  await go(phone, 'Brinmouth', 'Bench');
  await phone.getByRole('button', { name: 'Walk' }).click();
  await phone.getByText('Arrived: the internet answers').first().waitFor();
  await shoot(phone, 'bench-phone');
} finally {
  await browser.close();
  await stack.stop();
  rmSync(folder, { recursive: true, force: true });
}
