import { STAGES, expect, test, inOrder } from './fixtures';

inOrder();

test('every stage passes the accessibility check, in both themes', async ({ desk, page }) => {
  await page.goto(desk.estate.address);
  await expect(page.getByLabel('Mail address')).toBeVisible();
  await desk.expectAccessible();
  await desk.signIn();
  await desk.expectAccessible();
  await desk.openSite('Brinmouth');
  for (const stage of STAGES) {
    await desk.stage(stage);
    await expect(desk.consequences.getByText(/Passengers stops/)).toBeVisible();
    await desk.expectAccessible();
  }
  await desk.stage('Lattice');
  await page
    .getByRole('rowheader', { name: /Passengers/ })
    .getByRole('button')
    .click();
  await desk.expectAccessible();
});

test('every part of a device, and every way to find one, passes the accessibility check', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Brinmouth');
  await page.getByRole('row', { name: /bm-ap-05/ }).click();
  for (const part of ['Overview', 'Set', 'Ask', 'Around', 'Runs', 'Firmware', 'Place', 'History']) {
    await desk.sheet('bm-ap-05').getByRole('button', { name: part, exact: true }).click();
    await desk.expectAccessible();
  }
  await desk.press('Find devices');
  for (const way of ['Sweep', 'Serial list', 'Label']) {
    await desk.sheet('Find devices').getByRole('button', { name: way, exact: true }).first().click();
    await desk.expectAccessible();
  }
});

test('every screen is usable on a phone: nothing wider than the page, everything within reach', async ({
  desk,
  page,
}) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await desk.signIn();
  await desk.openSite('Brinmouth');
  for (const stage of STAGES) {
    await desk.stage(stage);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    await desk.expectAccessible();
  }
  await page.getByRole('button', { name: /Consequences/ }).click();
  await page.getByRole('button', { name: /^Show/ }).click();
  await expect(desk.sheet('bm-sw-02 port 7')).toBeVisible();
  await desk.press('Close the sheet');
  await expect(desk.sheet('bm-sw-02 port 7')).toBeHidden();
});

test('a port is made to carry a segment, and to drop it, in the grid by keyboard alone', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Lattice');
  const empty = page.getByRole('gridcell', { name: 'Berth sensors, bm-sw-02 port 6: does not pass' });
  await page.getByRole('gridcell', { name: 'Berth sensors, bm-sw-02 port 9: untagged' }).focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowLeft');
  await expect(empty).toBeFocused();
  await page.keyboard.press('Enter');
  await desk.press('Carry Berth sensors tagged');
  const tagged = page.getByRole('gridcell', { name: 'Berth sensors, bm-sw-02 port 6: tagged' });
  await expect(tagged).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(empty).toBeVisible();
});

test('the grid and the sheet are worked by keyboard alone', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Lattice');
  await page
    .getByRole('rowheader', { name: /Management/ })
    .getByRole('button')
    .focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(desk.sheet('Passengers')).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await expect(desk.sheet('Passengers')).toBeHidden();
  await page.keyboard.press('ArrowDown');
  await expect(page.locator(':focus')).toHaveAttribute('aria-label', /.+/);
});
