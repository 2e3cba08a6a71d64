// Key rings: many keys made, shown and searched, and what an edit means beside hundreds of segments that keys lead to.
import { randomUUID } from 'node:crypto';
import { figure, percentile } from './figures.mjs';
import { inBrowser } from './in-browser.mjs';
import { writeLargeEstate } from './large-estate.mjs';

const [KEYS, SEGMENTS, EDITS] = [5000, 300, 15];

export async function benchSsids({ databaseUrl, folder }) {
  const { estate } = writeLargeEstate(folder, { sites: 1, devicesPerSite: 40, segments: 4 });
  await inBrowser({ databaseUrl, folder, estate }, async ({ url, cookie, open }) => {
    const call = async (method, path, body, type = 'application/json') => {
      const sent = body === undefined ? {} : { body: JSON.stringify(body) };
      const response = await fetch(url + path, { method, headers: { cookie, 'content-type': type }, ...sent });
      const text = await response.text();
      if (!response.ok) throw new Error(`${method} ${path}: ${text.slice(0, 300)}`);
      return text === '' ? null : JSON.parse(text);
    };
    const timed = async (act) => {
      const began = performance.now();
      const value = await act();
      return { ms: performance.now() - began, value };
    };
    const [{ id: siteId }] = (await call('GET', '/api/estate')).sites;
    const edit = async (operations) => {
      const { id, head } = await call('GET', '/api/drafts/current');
      return timed(() => call('POST', `/api/drafts/${id}/operations?site=${siteId}`, { head, operations }));
    };
    const ssidId = randomUUID();
    const { site } = await call('GET', `/api/drafts/current/sites/${siteId}`);
    const own = site.segments.find(({ id }) => id !== site.managementId).name;
    const ssid = {
      ...{ id: ssidId, name: 'Berths', security: 'wpa2-psk', passphrase: null, ring: [], bands: ['5'], segment: own },
      reach: { kind: 'sites', siteIds: [siteId] },
    };
    await edit([{ type: 'ssid.add', ssid }]);
    const rows = Array.from({ length: SEGMENTS }, (_, i) => ({ name: `Berth ${i + 1}`, vlan: 1001 + i }));
    const { id: draftId } = await call('GET', '/api/drafts/current');
    const seen = await timed(() =>
      call('POST', `/api/drafts/${draftId}/sites/${siteId}/ring-segments`, {
        ssidId,
        recipeId: null,
        length: 26,
        rows,
      }),
    );
    figure(`${SEGMENTS} segments for keys worked out`, `${seen.ms.toFixed(0)} ms`, '–');
    const made = await edit(seen.value.operations);
    figure(`the same put into the draft, with consequences`, `${made.ms.toFixed(0)} ms`, '–');

    const keys = Array.from({ length: KEYS }, (_, i) => ({
      ...{ name: `Guest ${i + 1}`, key: `berth-key-${String(i).padStart(6, '0')}`, segment: rows[i % SEGMENTS].name },
      ...{ macs: [], most: 2, from: null, until: '2026-12-31', note: '' },
    }));
    const added = await timed(() => call('POST', `/api/rings/${ssidId}/keys`, keys, 'application/octet-stream'));
    figure(`a ring of ${KEYS} keys made and saved`, `${added.ms.toFixed(0)} ms`, '3,000 ms or less');
    const read = [];
    for (let i = 0; i < 7; i++) read.push((await timed(() => call('GET', `/api/rings/${ssidId}`))).ms);
    figure(`the ring read, median of 7`, `${percentile(read, 0.5).toFixed(0)} ms`, '–');

    const edits = [];
    for (let i = 0; i < EDITS; i++) {
      const [from, to] = [i === 0 ? null : `${20 + i}`, `${21 + i}`].map((most) => ({ most: most && Number(most) }));
      edits.push((await edit([{ type: 'ssid.set', ssidId, from, to }])).ms);
    }
    figure(
      `an edit with ${KEYS} keys, ${SEGMENTS} segments: consequences, p50`,
      `${percentile(edits.slice(1), 0.5).toFixed(0)} ms`,
      '300 ms or less',
    );
    figure('the same, p95', `${percentile(edits.slice(1), 0.95).toFixed(0)} ms`, '–');
    await inPage(open, `${url}/sites/${siteId}/wireless`);
  });
}

/** From the press that opens a ring to its rows, and from a letter that is typed to those that are left. */
async function inPage(open, url) {
  const page = await open();
  await page.goto(url);
  const opened = [];
  const searched = [];
  for (let i = 0; i < 5; i++) {
    await page.getByRole('button', { name: 'SSIDs', exact: true }).click();
    await page.getByRole('button', { name: 'Keys', exact: true }).waitFor();
    opened.push(await shown(page, 'button[aria-pressed]:nth-of-type(2)', null, `${KEYS.toLocaleString('en')} rows`));
    searched.push(await shown(page, 'input[type=search]', `Guest ${4000 + i}`, '1 of'));
    await page.locator('input[type=search]').last().fill('');
  }
  figure(`a ring of ${KEYS} opened, median of 5`, `${percentile(opened, 0.5).toFixed(0)} ms`, '200 ms or less');
  figure(`the same searched, median of 5`, `${percentile(searched, 0.5).toFixed(0)} ms`, '200 ms or less');
  await page.context().close();
}

/** Presses or types, and waits until the table says how many rows there are. @returns milliseconds, as the page counts them. */
function shown(page, what, typed, words) {
  return page.evaluate(
    async ([selector, text, count]) => {
      const table = () => document.querySelector('il-data-table [role=status]')?.textContent ?? '';
      const at = performance.now();
      if (text === null)
        [...document.querySelectorAll('button')].find((each) => each.textContent.trim() === 'Keys').click();
      else {
        const field = [...document.querySelectorAll(selector)].at(-1);
        field.value = text;
        field.dispatchEvent(new globalThis.Event('input', { bubbles: true }));
      }
      while (!table().includes(count)) {
        if (performance.now() - at > 20_000) throw new Error(`the table says ${table()}, not ${count}`);
        await new Promise((resolve) => requestAnimationFrame(resolve));
      }
      await new Promise((resolve) => requestAnimationFrame(resolve));
      return performance.now() - at;
    },
    [what, typed, words],
  );
}
