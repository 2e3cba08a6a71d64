import { expect, test } from './fixtures';

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
  await expect(sheet.getByText('1 site differs from as founded to revision 1')).toBeVisible();
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
