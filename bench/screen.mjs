// In the browser: from an edit to its consequences on the screen, and the first load.
import { startFleet, stopChild } from '../tools/stack.mjs';
import { figure, percentile, until } from './figures.mjs';
import { inBrowser } from './in-browser.mjs';
import { writeLargeEstate } from './large-estate.mjs';

const EDITS = 60;

export async function benchScreen({ databaseUrl, folder }) {
  const { estate, world } = writeLargeEstate(folder, { sites: 1, devicesPerSite: 40, segments: 20 });
  await inBrowser({ databaseUrl, folder, estate }, async ({ url, cookie, open }) => {
    const fleet = startFleet({ world, controllerUrl: url, state: null, control: 0 });
    try {
      await until(async () => {
        const { sites } = await (await fetch(`${url}/api/estate`, { headers: { cookie } })).json();
        return sites[0].devices['in step'] === 40;
      });
      await measureLoad(open, url);
      await measureEdits(open, url);
    } finally {
      await stopChild(fleet);
    }
  });
}

async function measureLoad(open, url) {
  const times = [];
  let bytes = 0;
  for (let i = 0; i < 5; i++) {
    const page = await open();
    const began = performance.now();
    await page.goto(url);
    await page.getByRole('link', { name: 'Site 1' }).waitFor();
    times.push(performance.now() - began);
    bytes = await page.evaluate(() =>
      performance
        .getEntriesByType('resource')
        .filter((entry) => entry.name.endsWith('.js'))
        .reduce((sum, entry) => sum + entry.encodedBodySize, 0),
    );
    await page.context().close();
  }
  figure('first load, compressed script', `${(bytes / 1024).toFixed(0)} KB`, '350 KB or less');
  figure(
    'first screen usable, nothing cached, median of 5',
    `${(percentile(times, 0.5) / 1000).toFixed(2)} s`,
    '1.5 s or less',
  );
}

/** Scrolls the grid to a crossing; what is out of sight is not there. */
async function bringIntoSight(page, name) {
  await page.locator('il-weave .crossing').first().waitFor();
  await page.evaluate(async (words) => {
    const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
    const weave = document.querySelector('il-weave');
    const deadline = performance.now() + 30_000;
    for (let x = 0; !document.querySelector(`[aria-label="${words}"]`); x = x > weave.scrollWidth ? 0 : x + 100) {
      if (performance.now() > deadline) throw new Error(`no crossing ${words}`);
      weave.scrollLeft = x;
      await frame();
      await frame();
    }
    weave.scrollLeft += 200; // its neighbours too
  }, name);
}

async function measureEdits(open, url) {
  const page = await open();
  await page.goto(url);
  await page.getByRole('link', { name: 'Site 1' }).click();
  await page.getByRole('navigation', { name: 'Stages' }).getByText('Lattice').click();
  // So many ports stand folded at first.
  await page.getByRole('button', { name: 'More', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Unfold all switches' }).click();
  await bringIntoSight(page, 'Segment 3, s1-sw-1 port 5: tagged');
  // Every edit makes a state that was never there before, so nothing can be remembered. Measured from the press to
  // the frame after the dock's findings and the grid have changed.
  const times = await page.evaluate(async (edits) => {
    let waited = 0;
    const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
    /** A frame, while something is waited for: what does not come ends the measurement. */
    const nextFrame = async (what) => {
      if (waited === 0) waited = performance.now();
      if (performance.now() - waited > 30_000) throw new Error(`no ${what}`);
      await frame();
    };
    const measured = [];
    const dock = () => document.querySelector('il-dock').textContent.replace(/\d+ ms/, '');
    for (let i = 0; i < edits; i++) {
      const [segment, port] = [(i % 8) + 1, Math.floor(i / 8) + 1];
      const name = `Segment ${segment}, s1-sw-1 port ${port}`;
      document.querySelector(`[aria-label="${name}: tagged"]`).click();
      let press;
      waited = 0;
      do {
        await nextFrame(`sheet of ${name}`);
        press = [...document.querySelectorAll('il-port-sheet button')].find((each) =>
          each.textContent.includes(`Take the tag ${segment * 10} off`),
        );
      } while (!press);
      const said = dock();
      const began = performance.now();
      press.click();
      waited = 0;
      // Findings of one kind stand together: each edit changes what the dock says.
      while (dock() === said || !document.querySelector(`[aria-label="${name}: missing here"]`))
        await nextFrame(`consequence of ${name}; the dock says: ${dock().slice(0, 400)}`);
      await frame();
      measured.push(performance.now() - began);
    }
    return measured;
  }, EDITS);
  figure(
    `edit to consequences on screen, 40 devices, 20 segments, p50`,
    `${percentile(times, 0.5).toFixed(0)} ms`,
    '–',
  );
  figure(
    `edit to consequences on screen, 40 devices, 20 segments, p95`,
    `${percentile(times, 0.95).toFixed(0)} ms`,
    '200 ms or less',
  );
}
