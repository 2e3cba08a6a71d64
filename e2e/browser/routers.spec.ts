import { expect, test, inOrder } from './fixtures';

inOrder();

test('a box of others is said, has to meet the gateway, is counted with in what reaches what, and is tried', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Paths');
  await expect(page.getByText(/None: the gateway routes every segment/)).toBeVisible();
  await desk.press('Add a router');
  const fresh = desk.sheet('Another router');
  await fresh.getByLabel('Called').fill('Camera recorder');
  await desk.press('Add it');
  await expect(fresh.getByText('“” is no address of “Management”, 10.12.1.0/24.')).toBeVisible();
  await fresh.getByLabel('At the address').fill('10.12.1.9');
  await desk.choose('Plugged in at', 'bm-sw-02');
  await fresh.getByLabel('Port', { exact: true }).fill('23');
  await desk.expectAccessible();
  await desk.press('Add it');

  const sheet = desk.sheet('Camera recorder');
  await sheet.getByRole('combobox', { name: 'Routes' }).click();
  await page.getByRole('option', { name: 'Cameras' }).click();
  await page.keyboard.press('Escape');
  await expect(desk.consequences.getByText('Cameras stops at bm-sw-02 port 23')).toBeVisible();
  await expect(desk.consequences.getByText('Management stops at bm-sw-02 port 23')).toBeVisible();
  await desk.press('Mend: tag 50 on port 23 of bm-sw-02');
  await desk.press('Mend: carry 1 untagged on port 23 of bm-sw-02');
  await expect(desk.consequences.getByText('Management stops at bm-sw-02 port 23')).toBeHidden();
  await sheet.getByLabel(/Assumed to let pass/).fill('deny whatever');
  await sheet.getByLabel(/Assumed to let pass/).blur();
  await expect(sheet.getByText(/“deny whatever” is no address/)).toBeVisible();
  await sheet.getByLabel(/Assumed to let pass/).fill('deny segment Cameras to segment Ticketing');
  await sheet.getByLabel(/Assumed to let pass/).blur();
  await desk.press('Try what is assumed');
  await expect(sheet.getByText('Devices know nothing of it yet. Roll it out, then try what is assumed.')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('row', { name: /10\.12\.50\.0\/25 to 10\.12\.1\.9/ })).toBeVisible();

  await desk.stage('Rules');
  await page.getByLabel('Ask who reaches whom').fill('Can Cameras reach 10.12.20.7 on TCP 443?');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Assumed: it stops this, by what is said of it.')).toBeVisible();

  await page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
  await page.getByRole('link', { name: /^Roll(ing)? out…$/ }).click();
  await desk.rollOutAll(/^Roll out to 2 devices/);
  await desk.openSite('Brinmouth', 'Paths');
  await page.getByRole('button', { name: /^Camera recorder/ }).click();
  await desk.press('Try what is assumed');
  const found = sheet.getByRole('list', { name: 'What came of it' });
  await expect(found.getByRole('listitem').filter({ hasText: 'Camera recorder answers the gateway at' })).toContainText(
    'so',
  );
  // What it really does is another thing: it lets tickets pass, and stops shells to the crew.
  await expect(found.getByRole('listitem').filter({ hasText: 'Cameras reaches Crew on tcp 22' })).toContainText(
    'otherwise',
  );
  await expect(
    found.getByRole('listitem').filter({ hasText: 'Cameras does not reach Ticketing on tcp 22' }),
  ).toContainText('otherwise');
  await expect(
    found.getByRole('listitem').filter({ hasText: 'Cameras reaches Berth sensors on tcp 443' }),
  ).toContainText('so');
  await estate.tell({ do: 'router', name: 'camera-box', on: false });
  await desk.press('Try what is assumed');
  await expect(found.getByRole('listitem').filter({ hasText: 'Camera recorder answers the gateway at' })).toContainText(
    'otherwise',
  );
  await estate.tell({ do: 'router', name: 'camera-box', on: true });
});

test('a route that a router hands back is found with its packet, told by Ask, and mended', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Paths');
  await desk.press('Add a route');
  const sheet = desk.sheet('New route');
  await sheet.getByLabel('Called').fill('Old works');
  await sheet.getByLabel('What is for').fill('172.20.0.0/16');
  await sheet.getByLabel('To the neighbour').fill('10.12.1.9');
  await sheet.getByRole('button', { name: 'Add the route' }).click();
  await expect(desk.consequences.getByText('“Old works” goes round in circles')).toBeVisible();
  await expect(
    desk.consequences.getByText(/in Management → 172\.20\.0\.1: .*to “Camera recorder” \(10\.12\.1\.9\)/),
  ).toBeVisible();
  await page.keyboard.press('Escape');
  await desk.stage('Rules');
  const ask = async (what: string): Promise<void> => {
    await page.getByLabel('Ask who reaches whom').fill(what);
    await page.keyboard.press('Enter');
  };
  await ask('Can Crew reach 172.20.4.4 on TCP 443?');
  await expect(page.getByText(': Goes round in circles')).toBeVisible();
  await ask('Can Crew reach 192.168.77.4 on TCP 443?');
  await expect(page.getByText(': Gets nowhere')).toBeVisible();
  await desk.press('Mend: go by it no more');
  await expect(desk.consequences.getByText('“Old works” goes round in circles')).toBeHidden();
});

test('a segment is carried only, and comes back with all that was said of it', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Lattice');
  await page.getByRole('rowheader', { name: /Berth sensors/ }).click();
  const sheet = desk.sheet('Berth sensors');
  await desk.choose('Routed by', 'nobody: carried only');
  await expect(sheet.getByText('Nothing gets in or out; ports that have it reach each other')).toBeVisible();
  await expect(sheet.getByText(/Berth sensors: .*carried only/)).toBeVisible();
  await expect(sheet.getByRole('checkbox', { name: 'its addresses' })).not.toBeChecked();
  await desk.choose('Routed by', 'the gateway');
  await sheet.getByRole('checkbox', { name: 'its addresses' }).check();
  await expect(sheet.getByText(/Berth sensors: .*routed by bm-gw-01/)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('rowheader', { name: /Cameras/ }).click();
  await expect(desk.sheet('Cameras').getByText(/routed by Camera recorder/)).toBeVisible();
  await desk.choose('Routed by', 'the gateway');
  await expect(desk.sheet('Cameras').getByText(/routed by bm-gw-01/)).toBeVisible();
});
