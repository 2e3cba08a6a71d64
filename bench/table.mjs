// In the browser: the table of 10,000 devices; here while nothing calls, in `intake` while all of them report.
import { figure, percentile } from './figures.mjs';
import { openBrowser, withController } from './in-browser.mjs';
import { writeLargeEstate } from './large-estate.mjs';

const DEVICES = 10_000;
const PER_SITE = 40;

export async function benchTable({ databaseUrl, folder }) {
  const { estate } = writeLargeEstate(folder, { sites: DEVICES / PER_SITE, devicesPerSite: PER_SITE, segments: 4 });
  await withController({ databaseUrl, folder, estate }, measureTable);
}

/** The table of 10,000 devices in a browser. */
export async function measureTable(url) {
  const browser = await openBrowser();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(url);
  await page.getByLabel('Mail address').fill('bench@skerrow.example');
  await page.getByLabel('Password').fill('bench-password');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('heading', { name: 'Bench estate' }).waitFor();
  const first = await timed(
    page,
    () => document.querySelector('a[href="/devices"]').click(),
    () => document.querySelector('il-data-table .line[aria-selected]'),
  );
  await page.getByText('10,000 rows').waitFor({ timeout: 30_000 });
  await page.waitForTimeout(2000);
  const filters = [];
  for (const text of ['s17-ap-', 'gateway', 's200-sw', '02:5a:20:00:1', 's9-ap', ''])
    filters.push(
      await page.evaluate(async (typed) => {
        const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
        const input = document.querySelector('il-data-table input[type=search]');
        const count = document.querySelector('il-data-table .count');
        const before = count.textContent;
        const began = performance.now();
        input.value = typed;
        input.dispatchEvent(new input.ownerDocument.defaultView.Event('input', { bubbles: true }));
        while (count.textContent === before) await frame();
        await frame();
        return performance.now() - began;
      }, text),
    );
  await browser.close();
  figure('devices table at 10,000: press to first rows', `${first.toFixed(0)} ms`, '300 ms or less');
  figure('devices table at 10,000: filter, p50', `${percentile(filters, 0.5).toFixed(0)} ms`, '–');
  figure('devices table at 10,000: filter, worst', `${Math.max(...filters).toFixed(0)} ms`, '100 ms or less');
}

/** Milliseconds from doing something on the page until it shows. */
async function timed(page, act, shows) {
  return page.evaluate(
    async ([actText, showsText]) => {
      const [act, shows] = [new Function(`return (${actText})()`), new Function(`return (${showsText})()`)];
      const began = performance.now();
      act();
      do await new Promise((resolve) => requestAnimationFrame(resolve));
      while (!shows());
      return performance.now() - began;
    },
    [act.toString(), shows.toString()],
  );
}
