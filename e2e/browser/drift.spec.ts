import { expect, test } from './fixtures';

test('a device that somebody changed by hand is shown line by line, and taken over or put right', async ({
  desk,
  page,
}) => {
  const { estate } = desk;
  await desk.signIn();
  await estate.tell({ do: 'by-hand', serial: '5C2-0128-54', port: '12', untagged: 10 });
  await desk.openSite('Brinmouth', 'Intake');
  await desk.press('Stuck 1');
  await page.getByRole('gridcell', { name: 'bm-sw-02', exact: true }).click();
  const sheet = desk.sheet('bm-sw-02');
  await sheet.getByRole('button', { name: 'Runs' }).click();
  const changed = sheet.getByRole('region', { name: 'Changed by hand' });
  await expect(changed.getByText('What it runs differs from what it was told by 1 line:')).toBeVisible();
  await expect(changed.getByText('port › 12 › untagged')).toBeVisible();
  await desk.expectAccessible();

  // Told something else, it would lose that: it is asked about before.
  await changed.getByRole('button', { name: 'Take it over: 1 edit of the draft' }).click();
  await expect(changed.getByText('In the draft now.')).toBeVisible();
  await desk.stage('Rollout');
  await expect(page.getByRole('button', { name: 'Roll out to 1 device' })).toBeVisible();
  await expect(page.getByRole('group', { name: 'Devices changed by hand' })).toBeHidden(); // nothing would be lost
  await page.getByRole('checkbox', { name: 'Roll out in spite of 1 error' }).check();
  await page.getByRole('button', { name: 'Roll out to 1 device' }).click();
  await expect(page.getByText('1/1')).toBeVisible();

  await estate.tell({ do: 'by-hand', serial: '5C2-0128-54', port: '13', storm: 7 });
  await desk.stage('Intake');
  await desk.press('Stuck 1');
  await page.getByRole('gridcell', { name: 'bm-sw-02', exact: true }).click();
  await sheet.getByRole('button', { name: 'Runs' }).click();
  await expect(changed.getByText('port › 13 › storm')).toBeVisible();
  await changed.getByRole('button', { name: 'Put it right' }).click();
  await expect(sheet.getByText('It runs exactly what it should.')).toBeVisible();
});
