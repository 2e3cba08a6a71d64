import { expect, test, inOrder } from './fixtures';

inOrder();

/** Serial number of aq-ap-01. */
const AP = '7K4-0107-51';
/** Serial number of aq-ap-03. */
const HANGING = '7K4-0121-53';

test('a channel shared with radar is allowed, listened to, used, and left when radar is heard; a radio that is not legal is refused', async ({
  desk,
  page,
  estate,
}) => {
  await estate.tell({ do: 'hurry', share: 0.05 }); // 3 s for 60
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Wireless');
  const look = page.getByRole('group', { name: 'What is shown' });
  await look.getByRole('button', { name: 'Radios' }).click();
  await page.getByRole('button', { name: /^5 GHz 80 MHz/ }).click();
  const band = desk.sheet('5 GHz');
  await band.getByLabel('Channels they may use').fill('36, 37');
  await band.getByLabel('Channels they may use').press('Tab');
  await expect(band.getByText(/Channel 37 cannot be used at 5 GHz\. Legal in Ireland/)).toBeVisible();
  await band.getByLabel('Channels they may use').fill('36-48, 100-112');
  await band.getByLabel('Channels they may use').press('Tab');
  await band.getByRole('combobox', { name: 'Channels shared with radar' }).click();
  await page.getByRole('option', { name: 'may be used' }).click();
  await expect(band.getByRole('combobox', { name: 'Where radios go when radar is heard' })).toBeVisible();
  await band.getByRole('button', { name: 'Close the sheet' }).click();

  await page.getByRole('row', { name: /aq-ap-01 5 free/ }).click();
  const radio = desk.sheet('aq-ap-01 5 GHz');
  await radio.getByRole('combobox', { name: 'Channel', exact: true }).click();
  await page.getByRole('option', { name: /^100: .*listens for radar 60 s first/ }).click();
  await radio.getByLabel('Power, dBm EIRP').fill('99');
  await radio.getByLabel('Power, dBm EIRP').press('Tab');
  await expect(radio.getByText(/Power lies between 1 and 26 dBm on channel 100/)).toBeVisible();
  await radio.getByLabel('Power, dBm EIRP').fill('20');
  await radio.getByLabel('Power, dBm EIRP').press('Tab');
  await expect(page.getByRole('row', { name: /aq-ap-01 5 100 80 20 \d+ · 80 MHz/ })).toBeVisible();
  await desk.expectAccessible();

  await desk.stage('Rollout');
  await expect(page.getByText(/listening for radar first: clients away 70 s at most/).first()).toBeVisible();
  await desk.rollOutAll(/^Roll out to \d+ devices?$/);
  await desk.stage('Wireless');
  await look.getByRole('button', { name: 'Radios' }).click();
  await expect(page.getByRole('row', { name: /aq-ap-01 5 100 80 20 100 · 80 MHz · 20 dBm/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /aq-ap-01 5 .*Ida/ })).toBeVisible(); // what it was last changed by

  await estate.tell({ do: 'radar', serial: AP });
  await expect(page.getByRole('row', { name: /aq-ap-01 5 100 .*36 · 80 MHz · 20 dBm, left 100: radar/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /aq-ap-01 5 .*radar on 100/ })).toBeVisible();
});

test('the air is scanned, drawn and planned by; what the plan brings is rolled out, and the speed tested before and after', async ({
  desk,
  page,
  estate,
}) => {
  await estate.tell({ do: 'hurry', share: 0.02 });
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Wireless');
  const look = page.getByRole('group', { name: 'What is shown' });
  const view = (name: string) => look.getByRole('button', { name, exact: true }).click();
  await view('Speed');
  await page.getByRole('combobox', { name: 'AP' }).click();
  await page.getByRole('option', { name: 'bm-ap-02' }).click();
  await desk.press(/^Test$/);
  await expect(page.getByText(/Mb\/s down, .* Narrowest: air/)).toBeVisible();

  await view('Plan');
  await desk.press('Work out a plan');
  await expect(page.getByText('Nobody has listened to the air of Brinmouth yet. Scan it first.')).toBeVisible();
  await desk.press('Scan…');
  const scan = desk.sheet('Scan of the air');
  await expect(scan.getByText(/Each is away \d+ s at the most/)).toBeVisible();
  await scan.getByRole('button', { name: 'Scan with 5 APs' }).click();
  await expect(scan.getByRole('listitem').filter({ hasText: 'done' })).toHaveCount(5);
  await scan.getByRole('button', { name: 'Close the sheet' }).click();
  // All five were put on one channel: that is found now.
  await expect(desk.consequences.getByText(/\d APs that hear each other share channel 36/)).toBeVisible();

  await view('Air');
  await page.getByRole('combobox', { name: 'As heard by' }).click();
  await page.getByRole('option', { name: 'bm-ap-02' }).click();
  await expect(page.getByRole('img', { name: /Networks over frequency: \d+ of ours, \d+ of strangers/ })).toBeVisible();
  await desk.expectAccessible();
  await page.getByRole('button', { name: /^44 at 40 MHz: others take \d+ %/ }).press('Enter');
  await expect(page.getByText('bm-ap-02: 44 at 40 MHz is in the draft.')).toBeVisible();
  await page.getByRole('button', { name: 'Networks' }).click();
  await expect(page.getByRole('row', { name: /Harbour Kiosk a stranger/ }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Who hears whom' }).click();
  await expect(page.getByText(/of \d+ pairs share the air/)).toBeVisible();

  await view('Plan');
  await desk.press('Work out a plan');
  const take = page.getByRole('button', { name: /^Put \d+ changes into the draft$/ });
  await expect(take).toBeVisible();
  await desk.expectAccessible();
  await take.click();
  await expect(page.getByText(/radios changed in the draft/)).toBeVisible();
  await expect(desk.consequences.getByText(/\d APs that hear each other share channel 36/)).toBeHidden();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices?$/);

  await desk.stage('Wireless');
  await view('Speed');
  await page.getByRole('combobox', { name: 'AP' }).click();
  await page.getByRole('option', { name: 'bm-ap-02' }).click();
  await desk.press(/^Test$/);
  await expect(page.getByText(/predicted \d+\. Narrowest: .* Before, 36 · 40 MHz · 23 dBm: \d+ down/)).toBeVisible();
  await view('Clients');
  await page.getByRole('row', { name: /crew-phone-22/ }).click();
  await desk.sheet('crew-phone-22').getByRole('button', { name: 'Disconnect it' }).click();
  await expect(page.getByText('crew-phone-22 was sent away. It may come back by itself.')).toBeVisible();
});

test('an AP hangs on another by radio: said, seen beforehand, rolled out, walked; what would cut it off says so', async ({
  desk,
  page,
  estate,
}) => {
  await estate.tell({ do: 'hurry', share: 0.02 });
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Wireless');
  const look = page.getByRole('group', { name: 'What is shown' });
  const view = (name: string) => look.getByRole('button', { name, exact: true }).click();
  await view('Mesh');
  await expect(page.getByText('Every AP hangs on its cable.')).toBeVisible();
  await page.getByRole('row', { name: /aq-ap-03/ }).click();
  const sheet = desk.sheet('aq-ap-03 by radio');
  await sheet.getByRole('combobox', { name: 'Hangs on another by radio' }).click();
  await page.getByRole('option', { name: 'always' }).click();
  await expect(desk.consequences.getByText('aq-ap-03 has nobody to hang on by radio')).toBeVisible();
  await sheet.getByRole('button', { name: 'Close the sheet' }).click();
  await view('Air');
  await desk.press('Scan…');
  await desk
    .sheet('Scan of the air')
    .getByRole('button', { name: /^Scan with/ })
    .click();
  await expect(desk.consequences.getByText('aq-ap-03 has nobody to hang on by radio')).toBeHidden();
  await view('Mesh');
  await expect(
    page.getByRole('img', { name: /aq-ap-03 hangs on aq-ap-02 at 5 GHz, -\d+ dBm, \d+ Mb\/s/ }),
  ).toBeVisible();
  await expect(page.getByRole('row', { name: /aq-ap-03 always aq-ap-02 -\d+ 1 \d+ / })).toBeVisible();
  await desk.expectAccessible();

  await desk.stage('Rollout');
  await expect(page.getByText('it is away itself: 30 s at most').first()).toBeVisible();
  await desk.rollOutAll(/^Roll out to \d+ devices?$/);
  await desk.stage('Wireless');
  await view('Mesh');
  await page.getByRole('group', { name: 'Which links are shown' }).getByRole('button', { name: 'Now' }).click();
  await expect(page.getByRole('img', { name: /aq-ap-03 hangs on aq-ap-02 at 5 GHz/ })).toBeVisible();
  await estate.tell({ do: 'pull', serial: HANGING, out: true });

  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Near access point' }).click();
  await page.getByRole('option', { name: /^aq-ap-03/ }).click();
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Walk on live' }).getByText('By radio to aq-ap-02')).toBeVisible();

  await desk.stage('Wireless');
  await view('Mesh');
  await page.getByRole('row', { name: /aq-ap-03/ }).click();
  await sheet.getByRole('button', { name: 'As the site says again' }).click();
  const cut = desk.consequences.getByText('aq-ap-03 would be cut off: it hangs on aq-ap-02 by radio, and on no cable');
  await expect(cut).toBeVisible();
  await desk.consequences
    .getByRole('button', { name: 'Mend: let aq-ap-03 hang by radio while its cable fails' })
    .click();
  await expect(cut).toBeHidden();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices?$/);
  await estate.tell({ do: 'pull', serial: HANGING, out: false });
  await desk.stage('Wireless');
  await view('Mesh');
  await expect(
    page.getByRole('row', { name: /aq-ap-03 while its cable fails its cable .* on its cable/ }),
  ).toBeVisible();
});
