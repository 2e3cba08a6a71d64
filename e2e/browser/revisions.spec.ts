import { expect, test, inOrder } from './fixtures';

inOrder();

test('a revision is looked into line by line, and a site is taken back to what it was before it', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Dunmere Depot');
  await desk.addSegment('Paint shop', 71);
  await desk.stage('Rollout');
  await page.getByRole('button', { name: /^Roll out to \d+ devices$/ }).click();
  await expect(page.getByText('Revision 1 is live')).toBeVisible();

  await page.getByRole('region', { name: 'Revisions' }).getByRole('button', { name: '1', exact: true }).click();
  const sheet = desk.sheet('Revision 1');
  // Another hub is told of the new segment, since it hands on what is for there.
  await expect(sheet.getByText('2 sites differ from as founded to revision 1')).toBeVisible();
  await sheet.getByText('Dunmere Depot').click();
  await expect(sheet.getByText(/added\s*segment\s*Paint shop/)).toBeVisible();
  await expect(sheet.getByText(/dd-gw-01/)).toBeVisible();
  await desk.expectAccessible();

  await sheet.getByRole('button', { name: 'Dunmere Depot back to as founded' }).click();
  await expect(page.getByText('1 edit put into Draft')).toBeVisible();
  await desk.press('Close the sheet');
  await page.getByRole('button', { name: /^Roll out to \d+ devices$/ }).click();
  await expect(page.getByText('Revision 2 is live')).toBeVisible();
  await desk.stage('Lattice');
  await expect(page.getByRole('rowheader', { name: /Crew/ })).toBeVisible();
  await expect(page.getByRole('rowheader', { name: /Paint shop/ })).toBeHidden();
});

test('a probe is walked on what was live before, and rules are asked of it', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Lattice');
  await desk.press(/^Mend: tag 40/);
  await desk.stage('Rollout');
  await page.getByRole('button', { name: 'Roll out to 1 device' }).click();
  await expect(page.getByText('1/1').first()).toBeVisible();

  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: 'Skerrow Passengers' }).click();
  await page.getByRole('combobox', { name: 'Near access point' }).click();
  await page.getByRole('option', { name: 'bm-ap-05' }).click();
  await page.getByRole('button', { name: 'Walk' }).click();
  await expect(page.getByText('Arrived: the internet answers')).toHaveCount(2);
  await page.getByLabel('Live is').selectOption('as founded');
  await expect(page.getByRole('heading', { name: 'On as founded' })).toBeVisible();
  await expect(page.getByText('Stopped at bm-sw-02 port 7')).toBeVisible();
  await desk.expectAccessible();

  await desk.stage('Rules');
  await page.getByRole('button', { name: 'Reach' }).click();
  await page.getByLabel('Live is').selectOption('as founded');
  await expect(page.getByText('The draft and as founded are alike.')).toBeVisible();
  await page.getByLabel('Live is').selectOption('what was live at a moment…');
  await page.getByLabel('At this moment').fill('2026-01-05T10:00');
  await page.getByLabel('At this moment').blur();
  await expect(page.getByRole('button', { name: 'On 5 Jan 2026, 10:00' })).toBeVisible();
  await desk.expectAccessible();
});

test('two drafts are held beside each other, and the edits of one taken over into the other', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.overall('Entry');
  await desk.press('Add access class');
  const sheet = desk.sheet('New access class');
  await sheet.getByLabel('Name', { exact: true }).fill('Lamps');
  await sheet.getByRole('combobox', { name: 'Segment its clients join' }).click();
  await page.getByRole('option', { name: /^Crew/ }).click();
  await sheet.getByRole('button', { name: 'Add class' }).click();
  await expect(desk.sheet('Lamps')).toBeVisible();
  const draft = page.locator('il-top-bar .draft .name');
  const first = (await draft.innerText()).split('\n')[0]!.trim();
  await draft.click();
  await page.getByRole('menuitem', { name: 'Start another draft' }).click();
  await expect(draft).toContainText('no edits');

  await page.getByRole('link', { name: 'Roll out…' }).click();
  await desk.press('Other drafts');
  await page.getByRole('menuitem', { name: new RegExp(`Beside ${first}`) }).click();
  const beside = page.getByRole('region', { name: new RegExp(` beside ${first}$`) });
  await expect(beside.getByText(/added\s*access class\s*Lamps/)).toBeVisible();
  await desk.expectAccessible();
  await beside.getByRole('button', { name: `Take over 1 edit of ${first}` }).click();
  await expect(beside.getByText(/1 edit taken over into/)).toBeVisible();
  await expect(beside.getByText('They say the same everywhere.')).toBeVisible();
});
