import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { expect, test, inOrder } from './fixtures';

inOrder();

test.beforeEach(async ({ desk }) => {
  await desk.signIn();
});
test.afterEach(async ({ desk, page }) => {
  await desk.press(/^Draft/);
  const discard = page.getByRole('menuitem', { name: 'Discard this draft' });
  if (await discard.isEnabled()) await discard.click();
  await page.keyboard.press('Escape');
});

const look = async (page: Page, view: string) =>
  page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: view }).click();
const more = async (page: Page, item: string | RegExp) => {
  await page.getByRole('button', { name: 'More', exact: true }).click();
  await page.getByRole('menuitem', { name: item }).click();
};

test('a segment tells its clients everything, moves with all that lies in it, and reads in words', async ({
  desk,
  page,
}) => {
  await desk.openSite('Brinmouth', 'Lattice');
  await page.getByRole('button', { name: /^Ticketing: on Skerrow Till, .*routed by bm-gw-01/ }).click();
  const sheet = desk.sheet('Ticketing');
  await sheet.getByRole('button', { name: 'Addresses', exact: true }).click();
  await expect(sheet.getByLabel('Reservations')).toHaveValue(/0e:c4:50:00:00:01 10\.12\.20\.5 Ticket printer, gate 1/);
  await sheet.getByLabel('Options by number').fill('43=0x0104c0000201');
  await sheet.getByLabel('Never given').fill('10.12.20.60-10.12.20.69');
  await sheet.getByLabel('Name servers').fill('192.0.2.53');
  await expect(desk.consequences.getByText('bm-gw-01')).toBeVisible();
  await sheet.getByRole('button', { name: 'Segment', exact: true }).click();
  await sheet.getByLabel('Subnet').fill('10.12.200.0/24');
  await expect(sheet.getByText('reservation Ticket printer, gate 1 10.12.20.5 → 10.12.200.5')).toBeVisible();
  await sheet.getByLabel('Subnet').press('Enter');
  await expect(sheet.getByLabel('Gateway address')).toHaveValue('10.12.200.1');
  await sheet.getByRole('button', { name: 'Addresses', exact: true }).click();
  await expect(sheet.getByLabel('Never given')).toHaveValue('10.12.200.60-10.12.200.69');
  await expect(sheet.getByLabel('Reservations')).toHaveValue(/10\.12\.200\.5 Ticket printer/);
  await sheet.getByLabel('Reservations').fill('not a mac 10.12.200.5');
  await sheet.getByLabel('Reservations').blur();
  await expect(sheet.getByText('“not” is not a MAC address.')).toBeVisible();
});

test('what gives addresses is chosen as boxes, in the sheet or on the cabling; what cannot give them is a finding with a mend', async ({
  desk,
  page,
}) => {
  await desk.openSite('Brinmouth', 'Lattice');
  await page.getByRole('button', { name: /^Crew: / }).click();
  const sheet = desk.sheet('Crew');
  await sheet.getByRole('button', { name: 'Served from' }).click();
  const given = sheet.getByRole('combobox', { name: 'Addresses are given by' });
  await given.fill('10.200.0.9');
  await given.press('Enter');
  await expect(desk.consequences.getByText('Crew cannot be given addresses by 10.200.0.9')).toBeVisible();
  await desk.press('Mend: serve from bm-gw-01');
  await expect(desk.consequences.getByText('Crew cannot be given addresses by 10.200.0.9')).toBeHidden();
  await expect(sheet.getByRole('button', { name: 'Take out gateway' })).toBeVisible();

  await sheet.getByRole('button', { name: 'Choose them there' }).click();
  const box = (name: string) => page.getByRole('img', { name: new RegExp(`^${name}, `) });
  await box('bm-ap-01').click();
  await expect(sheet.getByText('1 box gives them.')).toBeVisible();
  await box('bm-ap-02').focus();
  await page.keyboard.press('Enter');
  await expect(sheet.getByText('2 boxes give them.')).toBeVisible();
  await expect(box('bm-ap-02')).toHaveAccessibleName(/gives addresses/);
  await expect(box('bm-gw-01')).not.toHaveAccessibleName(/gives addresses/);
  await box('bm-sw-01').click();
  await expect(sheet.getByLabel('Address of the switch here')).toHaveValue('10.12.10.2');
  await page.keyboard.press('Control+z');
  await expect(sheet.getByText('2 boxes give them.')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(sheet.getByRole('button', { name: 'Take out bm-ap-01' })).toBeVisible();
  await expect(sheet.getByText('1 box gives them.')).toBeVisible();
  await desk.expectAccessible();
  await box('bm-gw-01').click();
  await expect(sheet.getByRole('button', { name: 'Take out gateway' })).toBeVisible();
});

test('ports are dragged over and given a duty that is edited once; what is plugged in says the usual one', async ({
  desk,
  page,
}) => {
  await desk.openSite('Brinmouth', 'Lattice');
  await look(page, 'Ports');
  await page.getByLabel('Filter Ports').fill('bm-sw-02 1'); // the table draws what is in sight
  const socket = (port: number) => page.getByRole('checkbox', { name: new RegExp(`^bm-sw-02 port ${port},`) });
  await socket(11).hover();
  await page.mouse.down();
  for (const port of [13, 15, 17]) await socket(port).hover();
  await page.mouse.up();
  const sheet = desk.sheet('4 ports');
  await sheet.getByRole('combobox', { name: 'Untagged' }).click();
  await page.getByRole('option', { name: 'Voice' }).click();
  await sheet.getByLabel('As a duty of its own').fill('Desk phone');
  await sheet.getByRole('button', { name: 'Make a duty' }).click();
  await expect(page.getByRole('row', { name: /bm-sw-02 13 Desk phone Voice/ })).toBeVisible();
  await sheet.getByRole('combobox', { name: 'Power', exact: true }).click();
  await page.getByRole('option', { name: 'off' }).click();
  await expect(page.getByRole('row', { name: /bm-sw-02 13 Desk phone Voice .*power/ })).toBeVisible();
  await sheet.getByRole('button', { name: 'Change “Desk phone” itself' }).click();
  await expect(page.getByRole('row', { name: /bm-sw-02 13 Desk phone Voice .*power/ })).toBeHidden();
  await sheet.getByRole('button', { name: 'Close the sheet' }).click();
  await socket(7).press('Enter');
  const one = desk.sheet('bm-sw-02 port 7');
  await expect(one.getByText(/^bm-ap-05 is plugged in, 1000 Mb\/s, 13\.4 W$/)).toBeVisible();
  await one.getByRole('button', { name: /^Give the usual: Management untagged, the segments of the SSIDs/ }).click();
  await expect(desk.consequences.getByText('Nothing is inconsistent here.')).toBeVisible();
});

test('all mends are shown before they are made', async ({ desk, page }) => {
  await expect(page.getByRole('row', { name: /^Brinmouth 1 error/ })).toBeVisible(); // told before it is opened
  await desk.openSite('Brinmouth', 'Lattice');
  await look(page, 'Ports');
  await page.getByRole('checkbox', { name: /^bm-sw-02 port 5,/ }).press('Enter');
  await desk.sheet('bm-sw-02 port 5').getByRole('combobox', { name: 'Tagged', exact: true }).click();
  await page.getByRole('option', { name: 'Ticketing' }).click();
  await page.keyboard.press('Escape');
  await expect(desk.consequences.getByText('Ticketing stops at bm-sw-02 port 5')).toBeVisible();
  await desk.press(/^Mend all 2/);
  const sheet = desk.sheet('Mend all');
  await expect(sheet.getByRole('listitem')).toHaveText([/tag 20 on port 5/, /tag 40 on port 7/]);
  await sheet.getByRole('button', { name: 'Put 2 edits into the draft' }).click();
  await expect(desk.consequences.getByText('Nothing is inconsistent here.')).toBeVisible();
});

test('segments go out as a file and come back, each row looked at first', async ({ desk, page }) => {
  await desk.openSite('Dunmere Depot', 'Lattice');
  await page.getByRole('button', { name: 'More', exact: true }).click();
  const downloading = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Segments as CSV' }).click();
  const csv = readFileSync(await (await downloading).path(), 'utf8');
  expect(csv).toContain('Crew,10,10.14.10.0/24');
  await page.keyboard.press('Escape');
  await more(page, 'Segments from a list…');
  const sheet = desk.sheet('Segments from a list');
  const list = `${csv.replace('Crew,10,', 'Crew,11,')}Office,70\r\nWrong,5000\r\n`;
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'segments.csv', mimeType: 'text/csv', buffer: Buffer.from(list) });
  await expect(sheet.getByRole('status').first()).toHaveText('1 to add, 1 to change, 2 as they are, 1 not good.');
  await expect(sheet.getByText('✗ A VLAN ID is a whole number from 1 to 4094.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Put the good rows into the draft' }).click();
  await expect(page.getByRole('button', { name: /^Office: / })).toBeVisible();
  await page.getByRole('button', { name: 'More', exact: true }).click();
  const drawing = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Save the grid as SVG' }).click();
  expect(readFileSync(await (await drawing).path(), 'utf8')).toContain('>Office</text>');
});

test('a recipe is stamped into many sites, each with a subnet of its own', async ({ desk, page }) => {
  await desk.openSite('Brinmouth', 'Lattice');
  await page.getByRole('button', { name: 'More', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Segment recipes of all sites…' }).click();
  await page.getByRole('gridcell', { name: 'Lifeboat radio' }).click();
  const sheet = desk.sheet('Lifeboat radio');
  await expect(sheet.getByRole('button', { name: /^Put into the draft: 0 segments/ })).toBeDisabled();
  await sheet.getByRole('checkbox', { name: 'Choose all that are shown' }).check();
  await expect(sheet.getByRole('row', { name: /Petrel .*10\.\d+\.77\.0\/26 added/ })).toBeVisible();
  await sheet.getByRole('button', { name: /^Put into the draft: 6 segments/ }).click();
  await expect(sheet.getByRole('row', { name: /Petrel .*10\.\d+\.77\.0\/26 as it says already/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Lifeboat radio 77 \/26 .* 6 / })).toBeVisible();
  await sheet.getByRole('link', { name: 'Brinmouth' }).click();
  await expect(page.getByRole('button', { name: /^Lifeboat radio: / })).toBeVisible();
});

test('a pool shows how the clients that are known spread over it', async ({ desk, page }) => {
  await desk.openSite('Brinmouth', 'Lattice');
  await more(page, 'VLAN pools…');
  const sheet = desk.sheet('VLAN pools');
  await sheet.getByLabel('New pool').fill('Visitors');
  await sheet.getByPlaceholder('2,30-32,40').fill('60-40');
  await sheet.getByRole('button', { name: 'Add pool' }).click();
  await expect(sheet.getByText('A range ends before it starts.')).toBeVisible();
  await sheet.getByPlaceholder('2,30-32,40').fill('40, 60, 99');
  await sheet.getByRole('button', { name: 'Add pool' }).click();
  await expect(sheet.getByText(/^How [1-9]\d* known clients spread$/)).toBeVisible();
  await desk.press('Mend: leave it out of the pool');
  await expect(sheet.getByLabel('VLAN IDs').first()).toHaveValue('40,60');
});

test('the address plan is gone into and out of, says what is free, and leads to segments', async ({ desk, page }) => {
  await desk.openSite('Brinmouth', 'Lattice');
  await look(page, 'Addresses');
  const square = page.getByRole('application', { name: /^Blocks of the prefix/ });
  await expect(page.getByRole('row', { name: /Brinmouth Crew 10 10\.12\.10\.0\/24 \d+ of 235/ })).toBeVisible();
  await square.press('Backspace');
  await expect(page.getByRole('row', { name: /Petrel Crew/ })).toBeVisible();
  await expect(page.getByText('No prefix of the estate overlaps another.')).toBeVisible();
  await page.getByLabel('Next free prefix of').fill('16');
  await page.getByRole('button', { name: 'Find' }).click();
  await expect(page.getByText('10.0.0.0/16', { exact: true })).toBeVisible();
  await page.getByRole('row', { name: /Brinmouth Voice/ }).click();
  await expect(desk.sheet('Voice')).toBeVisible();
});

test('clients are found by name; cabling is drawn, lit and moved by keyboard, and stays so', async ({ desk, page }) => {
  await desk.openSite('Brinmouth', 'Lattice');
  await look(page, 'Clients');
  await page.getByLabel('Filter Clients and leases').fill('ticket-printer-1');
  await expect(
    page.getByRole('row', { name: /10\.12\.20\.5 ticket-printer-1 .* Ticketing bm-sw-01 port 11/ }),
  ).toBeVisible();
  await look(page, 'Cabling');
  await page.getByRole('group', { name: 'Light a segment' }).getByRole('button', { name: 'Passengers' }).click();
  await expect(page.getByRole('button', { name: /bm-ap-05.*1 Gb\/s 13\.4 W, stops here/ })).toBeAttached();
  const device = page.getByRole('img', { name: /^bm-sw-02, switch/ });
  const before = await device.getAttribute('transform');
  await device.focus();
  await page.keyboard.press('ArrowRight');
  await expect(device).not.toHaveAttribute('transform', before!);
  const after = await device.getAttribute('transform');
  await page.reload();
  await expect(page.getByRole('img', { name: /^bm-sw-02, switch/ })).toHaveAttribute('transform', after!);
  await page.getByRole('button', { name: 'As computed' }).click();
  await expect(device).toHaveAttribute('transform', before!);
});

test('every drawing of the lattice can be used by all', async ({ desk, page }) => {
  await desk.openSite('Brinmouth', 'Lattice');
  await desk.expectAccessible();
  for (const view of ['Ports', 'Cabling', 'Addresses', 'Clients']) {
    await look(page, view);
    await desk.expectAccessible();
  }
});

test('the grid is printed alone, in ink on white', async ({ desk, page }) => {
  await page.emulateMedia({ colorScheme: 'dark' });
  await desk.openSite('Brinmouth', 'Lattice');
  // What the browser would put on paper is what is shown to the medium of print while the page asks for it.
  await page.evaluate(() => {
    window.print = () => {
      const paper = document.querySelector('.print-sheet')!.cloneNode(true) as HTMLElement;
      document.body.append(paper);
    };
  });
  await more(page, 'Print the grid');
  await page.emulateMedia({ media: 'print' });
  const paper = page.locator('.print-sheet svg');
  await expect(paper).toBeVisible();
  await expect(paper.getByText('Brinmouth: segments')).toBeVisible();
  await expect(paper.getByText('Passengers', { exact: true })).toBeVisible();
  await expect(page.locator('il-shell')).toBeHidden();
  expect(await page.evaluate(() => getComputedStyle(document.body).backgroundColor)).toBe('rgb(255, 255, 255)');
  await page.emulateMedia({ media: null, colorScheme: null });
  await page.reload();
});

test('a crossing is painted as what it says, in the colour of its segment and of the theme', async ({ desk, page }) => {
  await desk.openSite('Brinmouth', 'Lattice');
  const painted = () =>
    page.locator('il-weave').evaluate((weave) => {
      const canvas = weave.querySelector('canvas')!;
      const cell = (name: RegExp) =>
        Array.from(weave.querySelectorAll('[role=gridcell]')).find((each) =>
          name.test(String(each.getAttribute('aria-label'))),
        )!;
      const { left, top } = canvas.getBoundingClientRect();
      const at = (element: Element, right: number): string => {
        const box = element.getBoundingClientRect();
        const x = box.left + box.width / 2 - left + right;
        const pixel = canvas.getContext('2d')!.getImageData(x, box.top + box.height / 2 - top, 1, 1).data;
        return '#' + [...pixel.slice(0, 3)].map((part) => part.toString(16).padStart(2, '0')).join('');
      };
      const tagged = cell(/^Crew, Access points .*: tagged/);
      const untagged = cell(/^Management, Access points .*: untagged/);
      const style = getComputedStyle(weave);
      const colour = (name: string) => style.getPropertyValue(name).trim().toLowerCase();
      return {
        got: [at(tagged, 0), at(tagged, 5), at(tagged, 10), at(untagged, 0)],
        due: [colour('--ground'), colour('--seg-1'), colour('--seg-1'), colour('--seg-0')],
      };
    });
  const light = await painted();
  expect(light.got).toEqual(light.due);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Change theme');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await painted()).due[0]).not.toBe(light.due[0]);
  const dark = await painted();
  expect(dark.got).toEqual(dark.due);
});

test('what scrolling has moved and what it has painted anew is what one painting of it all shows', async ({
  desk,
  page,
}) => {
  await page.setViewportSize({ width: 760, height: 460 });
  await desk.openSite('Brinmouth', 'Lattice');
  const weave = page.locator('il-weave');
  await expect(weave.getByRole('gridcell').first()).toBeVisible();
  const painted = () =>
    weave.evaluate((element) => {
      const canvas = element.querySelector('canvas')!;
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      let [hash, ink] = [0, 0];
      for (let i = 0; i < data.length; i++) hash = (Math.imul(hash, 31) + data[i]!) | 0;
      for (let i = 3; i < data.length; i += 4) ink += data[i]! > 0 ? 1 : 0;
      return { hash, ink, left: canvas.style.left, top: canvas.style.top };
    });
  const changeTheme = async () => {
    await page.keyboard.press('Control+k');
    await page.keyboard.type('Change theme');
    await page.keyboard.press('Enter');
  };
  const start = await painted();
  // Again where a device said something else in between: then it is right that another picture is shown.
  await expect(async () => {
    await weave.evaluate((element) => element.scrollTo(0, 0));
    await expect.poll(async () => (await painted()).left).toBe(start.left);
    await weave.evaluate(async (element) => {
      const next = () => new Promise((resolve) => requestAnimationFrame(resolve));
      for (const [left, top] of [
        [150, 40],
        [300, 90],
        [420, 60],
        [380, 120],
        [260, 150],
      ] as const) {
        element.scrollTo(left, top);
        await next();
        await next();
      }
    });
    const scrolled = await painted();
    expect([scrolled.left, scrolled.top]).not.toEqual([start.left, start.top]);
    expect(scrolled.ink).toBeGreaterThan(1000);
    await changeTheme();
    await expect.poll(async () => (await painted()).hash).not.toBe(scrolled.hash);
    await changeTheme();
    await expect.poll(painted, { timeout: 10_000 }).toEqual(scrolled);
  }).toPass({ timeout: 120_000 });
});
