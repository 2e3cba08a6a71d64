import { readFile } from 'node:fs/promises';
import { expect, test, inOrder } from './fixtures';

inOrder();

test('a tunnel to a gateway of others is said, seen before it is told, stands, and says where it fails', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Paths');
  await expect(page.getByText(/^None. Such a tunnel leads/)).toBeVisible();
  await desk.press('Add a tunnel');
  const fresh = desk.sheet('Another tunnel to a gateway of others');
  await fresh.getByLabel('Called').fill('Wrackline Yard');
  await desk.press('Add it');
  await expect(fresh.getByText('Type the key that both know, or have one made.')).toBeVisible();
  await fresh.getByLabel('The other gateway is at').fill('198.51.100.60');
  await fresh.getByLabel('It names itself', { exact: true }).fill('gw.wrackline.example');
  await fresh.getByLabel('Key that both know').fill('grey-gulls');
  await fresh.getByRole('combobox', { name: 'It reaches, of this site' }).click();
  await page.getByRole('option', { name: /^Crew/ }).click();
  await page.keyboard.press('Escape');
  await fresh.getByLabel('Networks behind it').fill('10.10.20.0/24');
  await desk.press('Add it');
  await expect(fresh.getByText(/The key has 16 to 120 characters/)).toBeVisible();
  await fresh.getByLabel('Key that both know').fill('grey-gulls-over-the-yard');
  await desk.press('Add it');
  await expect(fresh.getByText('10.10.20.0/24 overlaps 10.10.20.0/25 of “Ticketing”.')).toBeVisible();
  await fresh.getByLabel('Networks behind it').fill('172.20.0.0/16');
  await desk.expectAccessible();
  await desk.press('Add it');

  const sheet = desk.sheet('Wrackline Yard');
  await expect(sheet.getByText('Nothing yet: it begins once this is rolled out.')).toBeVisible();
  // Its people say that it knows ours by another name: that is seen before anybody has called.
  await sheet.getByRole('checkbox', { name: /Its people say/ }).check();
  await sheet.getByLabel('and expects ours to be').fill('quay.wrackline.example');
  await sheet.getByLabel('and expects ours to be').blur();
  await expect(desk.consequences.getByText(/fails where both prove who they are/)).toBeVisible();
  await sheet.getByRole('checkbox', { name: /Its people say/ }).uncheck();
  await expect(desk.consequences.getByText(/fails where both prove/)).toBeHidden();
  const outlook = sheet.getByRole('table', { name: 'What both come to' });
  await expect(outlook.getByRole('row', { name: /Goes in there/ })).toContainText('172.20.0.0/16');

  const saved = page.waitForEvent('download');
  await sheet.getByRole('button', { name: 'A sheet, without the key' }).click();
  const download = await saved;
  expect(download.suggestedFilename()).toBe('wrackline-yard-other-side.txt');
  expect(await readFile(await download.path(), 'utf8')).toMatch(/Its identity +aq\.gateway\.example/);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('row', { name: /172\.20\.0\.0\/16 into the tunnel to Wrackline Yard/ })).toBeVisible();

  await desk.stage('Rules');
  await page.getByLabel('Ask who reaches whom').fill('Can Crew reach 172.20.7.9 on TCP 443?');
  await page.keyboard.press('Enter');
  await expect(
    page.getByText('Both have agreed to carry it. Assumed: the other gateway lets it pass.', { exact: true }),
  ).toBeVisible();

  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await page.getByRole('link', { name: /^Roll(ing)? out…$/ }).click();
  await desk.rollOutAll(/^Roll out to 1 device/);
  await desk.openSite('Ansel Quay', 'Paths');
  const row = page.getByRole('button', { name: /^Wrackline Yard/ });
  await expect(row).toContainText('stands by wan1');
  await row.click();
  await expect(sheet.getByText(/Both use AES-CBC, 256 bits/)).toBeVisible();

  // The other has another key from now on, and is silent after that.
  await estate.tell({ do: 'far', name: 'wrackline', change: { silent: true } });
  await expect(sheet.getByRole('listitem').filter({ hasText: 'finds the other' })).toHaveAttribute(
    'aria-current',
    'step',
  );
  await estate.tell({ do: 'far', name: 'wrackline', change: { silent: false, key: 'another-key-of-the-yard' } });
  await expect(sheet.getByText(/It turns us down \(AUTHENTICATION_FAILED\)/)).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(row).toContainText('fails where it proves who it is');
  await estate.tell({ do: 'far', name: 'wrackline', change: { key: 'grey-gulls-over-the-yard' } });
  await expect(row).toContainText('stands by wan1');
  await expect(page.getByText(/the tunnel Wrackline Yard stands no more/).first()).toBeVisible();
});

test('who only looks is shown how it fares, and neither edits it nor takes the key', async ({ desk, page }) => {
  await desk.signInByForm('tam@skerrow.example', 'observer-demo-26');
  await desk.openSite('Ansel Quay', 'Paths');
  await expect(page.getByRole('button', { name: 'Add a tunnel' })).toBeHidden();
  await page.getByRole('button', { name: /^Wrackline Yard/ }).click();
  const sheet = desk.sheet('Wrackline Yard');
  await expect(sheet.getByLabel('Called')).not.toBeEditable();
  await expect(sheet.getByText('For the people of the other gateway')).toBeHidden();
});
