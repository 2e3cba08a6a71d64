// In the browser: the air of a site of 200 APs, each hearing 60 networks, drawn and panned; and one radio's edit at 40 APs, painted.
import { register } from 'tsx/esm/api';
import { figure, percentile } from './figures.mjs';
import { inBrowser } from './in-browser.mjs';
import { writeLargeEstate } from './large-estate.mjs';

const [APS, NETWORKS, EDITED] = [200, 60, 40];
const EDITS = 12;

export async function benchSpectrum({ databaseUrl, folder }) {
  register();
  // A gateway and two switches for 40 APs.
  const { estate } = writeLargeEstate(folder, { sites: 1, devicesPerSite: EDITED + 3, segments: 8 });
  await inBrowser({ databaseUrl, folder, estate }, async ({ url, open }) => {
    const page = await open();
    await page.goto(url);
    await page.getByRole('link', { name: 'Site 1' }).click();
    await page.getByRole('navigation', { name: 'Stages' }).getByText('Wireless').click();
    await page.getByRole('heading', { name: 'Wireless' }).waitFor();
    const view = (which) =>
      page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: which, exact: true });
    await view('Radios').click();
    await page.getByRole('row', { name: /s1-ap-1 5 / }).click();
    const edits = [];
    for (let i = 0; i < EDITS; i++) edits.push(await edited(page, i % 2 === 0 ? '20' : '40'));
    figure(
      `one radio's edit at ${EDITED} APs, choice to consequences painted, p50`,
      `${percentile(edits, 0.5).toFixed(0)} ms`,
      '200 ms or less',
    );
    figure('the same, p95', `${percentile(edits, 0.95).toFixed(0)} ms`, '–');

    await page.route('**/api/sites/*/air', (route) => route.fulfill({ json: air() }));
    await page.getByRole('button', { name: 'Close the sheet' }).click();
    await view('SSIDs').click();
    const drawn = [];
    for (let i = 0; i < 3; i++) {
      await page.reload();
      await page.locator('il-ssids-view tbody tr').first().waitFor();
      await page.waitForFunction(() =>
        performance.getEntriesByType('resource').some(({ name: what }) => what.endsWith('/air')),
      );
      drawn.push(await page.evaluate(drawnIn));
      await view('SSIDs').click();
    }
    figure(
      `${APS} APs × ${NETWORKS} networks, press to drawn`,
      `${percentile(drawn, 0.5).toFixed(0)} ms`,
      '200 ms or less',
    );
    await view('Air').click();
    const frames = await page.evaluate(panned);
    figure('panned: frame, p50', `${percentile(frames, 0.5).toFixed(1)} ms`, '16.7 ms');
    figure('panned: frame, p95', `${percentile(frames, 0.95).toFixed(1)} ms`, '–');
  });
}

/** What so many APs heard at 5 GHz, the same each time. */
function air() {
  let seed = 7;
  const below = (count) => (seed = (seed * 1_103_515_245 + 12_345) % 2 ** 31) % count;
  const channels = [36, 40, 44, 48, 52, 56, 60, 64, 100, 104, 108, 112, 116, 120, 124, 128];
  const heard = Array.from({ length: APS }, (_, ap) => ({
    ...{
      deviceId: `00000000-0000-4000-8000-${String(ap).padStart(12, '0')}`,
      name: `ap-${ap}`,
      at: new Date().toISOString(),
    },
    networks: Array.from({ length: NETWORKS }, (__, n) => {
      const bssid = `06:00:${[ap >> 8, ap & 255, n, 1].map((octet) => octet.toString(16).padStart(2, '0')).join(':')}`;
      const channel = channels[below(channels.length)];
      return {
        ...{ bssid, ssid: `Network ${ap} ${n}`, band: '5', channel, centre: channel, width: 20 },
        ...{ signal: -40 - below(50), security: 'WPA2' },
      };
    }),
    channels: channels.map((channel) => ({ band: '5', channel, busy: below(100) / 100, noise: -94 })),
  }));
  return { heard, run: null, ours: [] };
}

/** Chooses another width. Returns milliseconds from there until the consequences of it are painted. */
async function edited(page, width) {
  await page.locator('#radio-width').click();
  return page.evaluate(async (wanted) => {
    const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
    const option = [...document.querySelectorAll('mat-option')].find((each) => each.textContent.trim() === wanted);
    const before = document.querySelector('#consequences')?.textContent;
    const cell = () => document.querySelector('.line.at')?.children[4]?.textContent.trim();
    const began = performance.now();
    option.click();
    while (cell() !== wanted || document.querySelector('#consequences')?.textContent === before) await frame();
    await frame();
    return performance.now() - began;
  }, width);
}

/** In the page: from a press until the drawing holds something. */
async function drawnIn() {
  const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
  const began = performance.now();
  [...document.querySelectorAll('[aria-label="What is shown"] button')]
    .find((each) => each.textContent === 'Air')
    .click();
  for (;;) {
    await frame();
    const canvas = document.querySelector('il-spectrum canvas');
    if (!canvas || canvas.width <= 300) continue;
    const { data } = canvas.getContext('2d').getImageData(0, Math.round(canvas.height * 0.55), canvas.width, 1);
    if (data.some((octet) => octet !== 0)) return performance.now() - began;
  }
}

/** In the page: pans the drawing for 120 frames. Returns how long each took, in milliseconds. */
async function panned() {
  const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
  const canvas = document.querySelector('il-spectrum canvas');
  const key = (what) =>
    canvas.dispatchEvent(new globalThis.KeyboardEvent('keydown', { key: what, bubbles: true, cancelable: true }));
  for (let i = 0; i < 3; i++) key('+');
  for (let i = 0; i < 5; i++) await frame();
  const measured = [];
  let before = performance.now();
  for (let i = 0; i < 120; i++) {
    key(Math.floor(i / 10) % 2 === 0 ? 'ArrowRight' : 'ArrowLeft');
    await frame();
    measured.push(performance.now() - before);
    before = performance.now();
  }
  return measured;
}
