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

test('a rule is written as it is typed, found to be taken by another, and moved by its mend and by keyboard', async ({
  desk,
  page,
}) => {
  await desk.openSite('Ansel Quay', 'Rules');
  const book = page.getByRole('region', { name: 'This site' });
  await book.getByText('Crew keeps out of the tills').click();
  await desk.press('Add rule');
  const sheet = desk.sheet('New rule');
  await sheet.getByRole('combobox', { name: 'Verdict' }).click();
  await page.getByRole('option', { name: 'Allow' }).click();
  await sheet.getByLabel('From', { exact: true }).fill('Crew');
  await sheet.getByLabel('To', { exact: true }).fill('10.10.20.300');
  await sheet.getByLabel('Services').fill('tcp 443');
  await expect(sheet.getByRole('button', { name: 'Add the rule' })).toBeInViewport();
  await sheet.getByRole('button', { name: 'Add the rule' }).click();
  await expect(sheet.getByText('10.10.20.300 is no address, prefix or range from low to high.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Take out 10.10.20.300' }).click();
  await sheet.getByLabel('To', { exact: true }).fill('10.10.20.7');
  await sheet.getByLabel('What it is for').fill('The till’s own page');
  await sheet.getByRole('button', { name: 'Add the rule' }).click();
  const rows = book.getByRole('listitem');
  await expect(rows.nth(2)).toContainText('The till’s own page');
  await expect(desk.consequences.getByText('“The till’s own page” never matches')).toBeVisible();
  await desk.consequences.getByRole('button', { name: 'Mend: move it before “Crew keeps out of the tills”' }).click();
  await expect(rows.nth(1)).toContainText('The till’s own page');
  await expect(desk.consequences.getByText('Nothing is inconsistent here.')).toBeVisible();
  await rows.nth(1).focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(rows.nth(2)).toContainText('The till’s own page');
  await rows.nth(2).getByText('⠿').hover();
  await page.mouse.down();
  await rows.nth(0).hover();
  await rows.nth(0).hover({ position: { x: 40, y: 4 } });
  await page.mouse.up();
  await expect(rows.nth(0)).toContainText('The till’s own page');
});

test('a question is answered with the rule that decides, and the matrix opens to exactly what gets through', async ({
  desk,
  page,
}) => {
  await desk.openSite('Ansel Quay', 'Rules');
  await page.getByLabel('Ask who reaches whom').fill('Can Crew reach 10.10.20.7 on TCP 443?');
  await page.keyboard.press('Enter');
  const answer = page.getByRole('region', { name: 'Answer' });
  await expect(answer).toContainText('No, none of it.');
  await expect(answer).toContainText('aq-gw-01: Stopped');
  await expect(answer).toContainText('Decided by “Crew keeps out of the tills”.');
  await page.getByLabel('Ask who reaches whom').fill('crew to 10.10.20.7 ipp');
  await page.keyboard.press('Enter');
  await expect(answer).toContainText('Yes, all of it.');
  await expect(answer).toContainText('aq-gw-01, back: Passed');
  await answer.getByRole('button', { name: 'Close' }).click();

  await desk.press('Reach');
  const cell = page.getByRole('button', { name: /^Crew to Ticketing: some traffic$/ });
  await cell.click();
  const opened = page.getByRole('region', { name: 'Crew → Ticketing' });
  await expect(opened.getByRole('row', { name: 'Crew Ticketing TCP 631, TCP 9100' })).toBeVisible();
  await expect(opened).toContainText('Crew prints tickets');
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('button', { name: /^Crew to Berth sensors/ })).toBeFocused();

  await desk.press('Rulebook');
  await page.getByText('Crew keeps out of the tills').click();
  await desk.press('Take out');
  await desk.press('Reach');
  await expect(page.getByRole('button', { name: 'Crew to Ticketing: everything, live some traffic' })).toBeVisible();
});

test('a guarantee is proven on each edit; what breaks it is told with a packet, and needs a reason to be rolled out', async ({
  desk,
  page,
}) => {
  await desk.openSite('Ansel Quay', 'Rules');
  await desk.press('Guarantees');
  await page.getByLabel('From', { exact: true }).fill('Voice');
  await page.getByLabel('To', { exact: true }).fill('Cameras');
  await page.keyboard.press('Enter');
  await desk.press('Guarantee at this site');
  const list = page.getByRole('list', { name: 'Guarantees' });
  await expect(list.getByText('segment Voice never reaches segment Cameras')).toBeVisible();
  await expect(list.getByText(/^10\.10\.60\.\d+ → 10\.10\.50\.\d+, TCP 443/)).toBeVisible();
  await desk.stage('Rollout');
  const against = page.getByRole('group', { name: 'Guarantees that it would break' });
  await expect(against).toContainText('Ansel Quay: segment Voice never reaches segment Cameras');
  await page.getByRole('checkbox', { name: /^Roll out in spite of/ }).click();
  const start = page.getByRole('button', { name: /^Roll out/ }).last();
  await expect(start).toBeDisabled();
  await against.getByRole('textbox').fill('Tried on purpose');
  await expect(start).toBeEnabled();
});

test('a draft that cuts devices off says whom, and is not rolled out before the site’s name is typed', async ({
  desk,
  page,
}) => {
  await desk.openSite('Brinmouth', 'Rules');
  await desk.press('Add rule');
  const sheet = desk.sheet('New rule');
  await sheet.getByRole('combobox', { name: 'Rulebook' }).click();
  await page.getByRole('option', { name: 'Every site, before its own' }).click();
  await sheet.getByLabel('From', { exact: true }).fill('Management');
  await sheet.getByLabel('To', { exact: true }).fill('internet');
  await sheet.getByRole('button', { name: 'Add the rule' }).click();
  await desk.press('Move up');
  await expect(desk.consequences.getByText(/devices would be cut off/)).toBeHidden(); // the rule before it still lets them
  await desk.press('Move up');
  await expect(desk.consequences.getByText(/devices would be cut off/)).toBeVisible();
  await desk.stage('Rollout');
  const against = page.getByRole('group', { name: 'Who would be cut off' });
  await expect(against).toContainText('Brinmouth: bm-ap-01');
  await expect(against).toContainText('203.0.113.200, TCP 443');
  await expect(against.getByLabel(/Type the site’s name, Brinmouth,/)).toBeVisible();
});

test('a named set takes many pasted lines, and tells the wrong ones; rules come from a list', async ({
  desk,
  page,
}) => {
  await desk.openSite('Ansel Quay', 'Rules');
  await desk.press('Sets');
  await desk.press('Add set');
  const sheet = desk.sheet('New named set');
  await sheet.getByLabel('Name').fill('Hosts');
  const lines = Array.from({ length: 3000 }, (_, i) => `198.51.${100 + (i >> 8)}.${i & 255}`);
  lines[1200] = '198.51.100.900';
  // As a paste does it; typed in, thousands of lines take the browser minutes.
  const paste = (text: string) =>
    sheet.getByLabel('Addresses').evaluate((field: HTMLTextAreaElement, pasted) => {
      field.value = pasted;
      field.dispatchEvent(new Event('change', { bubbles: true }));
    }, text);
  await paste(lines.join('\n'));
  await expect(sheet.getByText('Addresses, line 1201: “198.51.100.900”')).toBeVisible();
  await expect(sheet.getByRole('button', { name: 'Add the set' })).toBeDisabled();
  await paste(lines.toSpliced(1200, 1).join('\n'));
  await sheet.getByRole('button', { name: 'Add the set' }).click();
  await expect(desk.sheet('Hosts').getByText(/Nothing yet\. Write “set Hosts”/)).toBeVisible();
  await page.keyboard.press('Escape');
  await desk.press('Rulebook');
  await desk.press('More');
  await page.getByRole('menuitem', { name: 'Rules from a list…' }).click();
  const list = desk.sheet('Rules from a list');
  await list.getByLabel('Paste rows').fill('allow,Crew,set Hosts,tcp 22,,,,Crew looks after the hosts\nmaybe,Crew,any');
  await list.getByRole('button', { name: 'Look at it' }).click();
  await expect(list.getByText('1 to add, 1 not good.')).toBeVisible();
  await list.getByRole('button', { name: 'Put the good rows into the draft' }).click();
  await expect(page.getByRole('region', { name: 'This site' }).getByText('Crew looks after the hosts')).toBeVisible();
});

test('isolation of a segment is said in the Lattice, and the rules it results in are shown', async ({ desk, page }) => {
  await desk.openSite('Ansel Quay', 'Lattice');
  await page.getByRole('button', { name: /^Cameras: / }).click();
  const sheet = desk.sheet('Cameras');
  await sheet.getByRole('button', { name: 'Isolation' }).click();
  await sheet.getByRole('checkbox', { name: 'Kept from other segments, and they from it' }).click();
  await desk.stage('Rules');
  const book = page.getByRole('region', { name: 'From isolation' });
  await expect(book.getByText('Cameras is kept from other segments')).toBeVisible();
  await desk.press('Reach');
  await expect(page.getByRole('button', { name: 'Crew to Cameras: nothing, live everything' })).toBeVisible();
});

test('every part of the rules passes the accessibility check', async ({ desk, page }) => {
  await desk.openSite('Ansel Quay', 'Rules');
  await page.getByText('Crew prints tickets').click();
  await desk.expectAccessible();
  await page.keyboard.press('Escape');
  for (const view of ['Reach', 'Sets', 'Guarantees']) {
    await desk.press(view);
    await expect(page.getByText('Computing…')).toBeHidden();
    await desk.expectAccessible();
  }
});
