import { expect, test } from './fixtures';

test('clients that are known get their class’s segment, wherever it has to be carried first', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Entry');
  const row = page.getByRole('row', { name: /^Gate scanners/ });
  await expect(row).toContainText('1, at aq-ap-01');
  await row.getByRole('button', { name: 'Gate scanners' }).click();
  const sheet = desk.sheet('Gate scanners');
  await expect(sheet.getByText(/Pier gate: aq-ap-01 “Skerrow Crew”, VLAN 20, 10\.10\.20\.\d+/)).toBeVisible();
  await desk.expectAccessible();

  await sheet.getByRole('combobox', { name: 'Segment its clients join' }).click();
  await page.getByRole('option', { name: 'Voice · VLAN 60' }).click();
  await sheet.getByLabel('Known clients').fill('0e:c4:60:00:00:01 Pier gate\n0e:c4:60');
  await expect(sheet.getByText('Line 2: “0e:c4:60” is no MAC address.')).toBeVisible();
  await sheet.getByLabel('Known clients').fill('0E-C4-60-00-00-01 Pier gate');
  await desk.putIntoDraft(sheet);
  await expect(sheet.getByLabel('Known clients')).toHaveValue('0e:c4:60:00:00:01 Pier gate');
  const stops = desk.consequences.getByText(/^Voice stops at aq-sw-0\d port \d$/);
  await expect(stops).toHaveCount(4);
  for (let left = 4; left > 0; left--) {
    await desk.consequences
      .getByRole('button', { name: /^Mend: tag 60 on port/ })
      .first()
      .click();
    await expect(stops).toHaveCount(left - 1);
  }
  await desk.stage('Rollout');
  await page.getByRole('button', { name: /^Roll out to \d+ devices$/ }).click();
  await expect(page.getByText('Revision 1 is live')).toBeVisible();
  await desk.stage('Entry');
  await row.getByRole('button', { name: 'Gate scanners' }).click();
  await expect(sheet.getByText(/Pier gate: aq-ap-01 “Skerrow Crew”, VLAN 60, 10\.10\.60\.\d+/)).toBeVisible();
});

test('a rule of a class that shares its segment is held at the APs, against its clients alone', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Entry');
  await desk.press('Add access class');
  const added = desk.sheet('New access class');
  await added.getByLabel('Name', { exact: true }).fill('Deck phones');
  await added.getByRole('combobox', { name: 'Segment its clients join' }).click();
  await page.getByRole('option', { name: 'Crew · VLAN 10' }).click();
  await added.getByLabel('Known clients').fill('0e:c4:11:00:00:11 Bosun');
  await added.getByRole('button', { name: 'Add class' }).click();
  await expect(desk.sheet('Deck phones')).toBeVisible();

  await desk.stage('Rules');
  await desk.press('Add rule');
  const sheet = desk.sheet('New rule');
  await sheet.getByLabel('From', { exact: true }).fill('deck ph');
  await page.getByRole('option', { name: 'Deck phones class' }).click();
  await sheet.getByLabel('To', { exact: true }).fill('198.51.100.81');
  await sheet.getByLabel('What it is for').fill('Phones leave the timetable alone');
  await sheet.getByRole('button', { name: 'Add the rule' }).click();
  await expect(
    desk.sheet('Phones leave the timetable alone').getByText(/^At the APs, for the clients it speaks of/),
  ).toBeVisible();
  await page.getByLabel('Ask who reaches whom').fill('Can Deck phones reach 198.51.100.81?');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Answer' })).toContainText(
    'the APs, for Skerrow Crew, Deck phones: Stopped',
  );
  await desk.press('Reach');
  await expect(page.getByRole('row', { name: /^Deck phones \(class\)/ })).toBeVisible();

  await desk.stage('Rollout');
  await page.getByRole('button', { name: /^Roll out to \d+ devices$/ }).click();
  await expect(page.getByText('Revision 2 is live')).toBeVisible();
  await desk.stage('Bench');
  const seat = page.getByRole('region', { name: 'Ask from a seat' });
  await seat.getByRole('combobox', { name: 'Seat' }).click();
  await page.getByRole('option', { name: 'Skerrow Crew, near aq-ap-01', exact: true }).click();
  await seat.getByLabel('Address or name').fill('198.51.100.81');
  await seat.getByRole('button', { name: 'Try' }).click();
  await expect(seat.getByText(/198\.51\.100\.81 answers/)).toBeVisible();
  await seat.getByRole('combobox', { name: 'Known as' }).click();
  await page.getByRole('option', { name: 'Bosun, of Deck phones' }).click();
  await seat.getByRole('button', { name: 'Try' }).click();
  await expect(seat.getByText(/Stopped by aq-ap-01: Phones leave the timetable alone\./)).toBeVisible();
  await expect(seat.getByText(/The draft stops it at the APs/)).toBeVisible();

  // Kept as a probe, the same client is walked.
  await seat.getByLabel('Keep it as a probe').fill('Bosun’s phone');
  await seat.getByRole('button', { name: 'Keep probe' }).click();
  await page.getByRole('combobox', { name: 'Start from' }).click();
  await page.getByRole('option', { name: 'Bosun’s phone' }).click();
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  const live = page.getByRole('region', { name: 'Walk on live' });
  await expect(live).toContainText('it has the class “Deck phones”');
});
