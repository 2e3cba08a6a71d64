import { expect, test, inOrder } from './fixtures';

inOrder();

test('what is said of an uplink goes into the draft; the curve says how soon it is noticed that it is gone, and a refusal what to do', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Paths');
  await expect(page.getByRole('button', { name: /wan1, Tidewire: 67 % of the sessions/ })).toBeVisible();
  await page.getByRole('button', { name: /wan1, Tidewire/ }).click();
  const sheet = desk.sheet('aq-gw-01 Tidewire');
  await expect(sheet.getByText(/^12 s to 17 s after it goes, 15 s on the average, for 2.9 MB a day/)).toBeVisible();
  await sheet.getByLabel('Every, s').fill('1');
  await sheet.getByLabel('Every, s').blur();
  await expect(sheet.getByText(/shorter than an answer is waited for/)).toBeVisible();
  await sheet.getByLabel('An answer is waited for, s').fill('1');
  await sheet.getByLabel('An answer is waited for, s').blur();
  await expect(sheet.getByText(/^3 s to 4 s after it goes/)).toBeVisible();
  await expect(page.getByText('1 edit')).toBeVisible();
  await sheet.getByLabel('Weight of its share').fill('1');
  await sheet.getByLabel('Weight of its share').blur();
  await expect(page.getByRole('button', { name: /wan1, Tidewire: 50 % of the sessions/ })).toBeVisible();
  await sheet.getByRole('button', { name: 'Measure' }).click();
  await expect(sheet.getByLabel('Down, Mb/s')).not.toHaveValue('500');
  await desk.expectAccessible();
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: /aq-gw-01 shared by weight/ }).click();
  const together = desk.sheet('aq-gw-01 uplinks together');
  await together.getByRole('combobox', { name: 'An uplink that is good again is used again' }).click();
  await page.getByRole('option', { name: 'when somebody says so' }).click();
  await expect(together.getByText('What is said here holds for this gateway alone')).toBeVisible();
});

test('an uplink that fails is seen at the site, in the list of sites, and among what became of it', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Paths');
  await expect(page.getByRole('button', { name: /wan1/ })).toContainText('good since');
  await estate.tell({ do: 'fares', name: 'Tidewire', up: false });
  await desk.openSite('Ansel Quay', 'Paths');
  await expect(page.getByRole('button', { name: /wan1, Tidewire/ })).toContainText('No link.');
  await expect(page.getByText('aq-gw-01: Tidewire is gone. No link; leaves by Hillcrest Line')).toBeVisible();
  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await expect(page.getByRole('row', { name: /^Ansel Quay .*a path is lost/ })).toBeVisible();
  await page.getByRole('button', { name: /^Paths lost/ }).click();
  await expect(page.getByRole('row', { name: /^Dunmere Depot/ })).toBeHidden();
  await estate.tell({ do: 'fares', name: 'Tidewire', up: true });
  await expect(page.getByRole('row', { name: /^Ansel Quay/ })).toBeHidden({ timeout: 60_000 });
});

test('what fails is rehearsed before it is needed, and a vessel plays it live', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Petrel', 'Paths');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Rehearsal' }).click();
  const cut = page.getByRole('row', { name: /Gannet Satellite its link is cut/ });
  await expect(cut).toContainText('not at all');
  await expect(cut).toContainText('Coastal Mobile 100 %');
  await expect(page.getByRole('row', { name: /Gannet Satellite nothing gets through/ })).toContainText('at worst 65 s');
  await page.getByLabel('To, s').fill('20');
  await expect(page.getByText('It ends after it began')).toBeVisible();
  await page.getByLabel('From, s').fill('0');
  await page.getByRole('combobox', { name: 'What happens' }).click();
  await page.getByRole('option', { name: 'its link is cut' }).click();
  await expect(page.getByText('Everybody is served all the time; 100 % of the sessions break.')).toBeVisible();
  await page.getByRole('button', { name: 'Play it live' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'This is real' })).toContainText(
    'Everybody is served all the time',
  );
  await page.getByRole('button', { name: 'Play it at pt-gw-01' }).click();
  await expect(page.getByText(/Gannet Satellite gone: computed at 0 s, really at 0/)).toBeVisible();
  await desk.expectAccessible();
});

test('over all sites it is seen where one failure is one too many', async ({ desk, page }) => {
  await desk.signIn();
  await desk.overall('Paths');
  await expect(page.getByRole('row', { name: /^Dunmere Depot dd-gw-01 .*as long as it lasts/ })).toBeVisible();
  await expect(
    page.getByRole('row', { name: /^Petrel pt-gw-01 .* 65 s 55 s wan1: nothing gets through/ }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Any two fail' }).click();
  await expect(page.getByRole('row', { name: /^Petrel pt-gw-01 .*as long as it lasts/ })).toBeVisible();
  await page.getByRole('link', { name: 'Petrel' }).click();
  await expect(page.getByRole('button', { name: /wan1, Gannet Satellite/ })).toBeVisible();
});
