import { expect, test, inOrder } from './fixtures';

inOrder();

test('a seat asks the fleet: what a rule stops is told, beside what the draft says; a kept question is asked after a rollout', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Bench');
  const seat = page.getByRole('region', { name: 'Ask from a seat' });
  await seat.getByRole('combobox', { name: 'Seat' }).click();
  await page.getByRole('option', { name: 'Skerrow Crew, near aq-ap-01', exact: true }).click();
  await seat.getByLabel('Keep it as a probe').fill('Ticket hall tablet');
  await seat.getByRole('button', { name: 'Keep probe' }).click();
  await expect(seat.getByRole('combobox', { name: 'Seat' })).toContainText(
    'Ticket hall tablet: Skerrow Crew, near aq-ap-01',
  );
  await seat.getByLabel('Address or name').fill('www.skerrow.example');
  await seat.getByRole('button', { name: 'Try' }).click();
  await expect(seat.getByText(/198\.51\.100\.81 answers/)).toBeVisible();
  await seat.getByLabel('Address or name').fill('198.51.100.81');
  await seat.getByRole('button', { name: 'Keep pinging' }).click();
  await expect(seat.getByText(/^[1-9]\d* of \d+ came back$/)).toBeVisible();
  await seat.getByRole('button', { name: 'Keep: should not' }).click();
  const suite = page.getByRole('region', { name: 'Suite' });
  await expect(
    suite.getByRole('row', { name: /Ping 198\.51\.100\.81 from Skerrow Crew not answer not asked yet/ }),
  ).toBeVisible();
  // A device may be silent for a moment on a busy machine: then it is asked again, as a person would.
  await expect(async () => {
    await suite.getByRole('button', { name: 'Ask all now' }).click();
    await expect(suite.getByText('otherwise')).toBeVisible({ timeout: 20_000 });
  }).toPass();
  await seat.getByRole('button', { name: 'Stop' }).click();

  await desk.stage('Rules');
  await desk.press('Add rule');
  const sheet = desk.sheet('New rule');
  await sheet.getByLabel('From', { exact: true }).fill('Crew');
  await sheet.getByLabel('To', { exact: true }).fill('198.51.100.81');
  await sheet.getByLabel('What it is for').fill('Crew leaves the timetable alone');
  await sheet.getByRole('button', { name: 'Add the rule' }).click();
  await expect(desk.consequences.getByText('aq-gw-01')).toBeVisible();

  await desk.stage('Bench');
  await seat.getByRole('combobox', { name: 'Seat' }).click();
  await page.getByRole('option', { name: 'Ticket hall tablet: Skerrow Crew, near aq-ap-01' }).click();
  await seat.getByLabel('Address or name').fill('198.51.100.81');
  await seat.getByRole('button', { name: 'Try' }).click();
  await expect(seat.getByText('The draft and what devices run differ here.')).toBeVisible();
  await seat.getByRole('button', { name: 'Keep pinging' }).click();
  await expect(seat.getByText(/^[1-9]\d* of \d+ came back$/)).toBeVisible();

  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to 1 device$/);
  await desk.stage('Bench');
  await expect(suite.getByText('as it should')).toBeVisible();
  await expect(suite.getByText(/Stopped by aq-gw-01: Crew leaves the timetable alone/)).toBeVisible();
  await desk.expectAccessible();
});

test('a rule is given to the switches: what that costs is found, they act on it, and the mend gives it to the gateway', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Rules');
  await desk.press('Add rule');
  const sheet = desk.sheet('New rule');
  await sheet.getByLabel('From', { exact: true }).fill('Crew');
  await sheet.getByLabel('To', { exact: true }).fill('Cameras');
  await sheet.getByLabel('What it is for').fill('Crew does not watch');
  await sheet.getByRole('combobox', { name: 'Takes effect' }).click();
  await page.getByRole('option', { name: 'At switches' }).click();
  await sheet.getByRole('button', { name: 'Add the rule' }).click();
  const rule = desk.sheet('Crew does not watch');
  await expect(rule.getByText('At every switch. Switches judge each packet by itself, answers too.')).toBeVisible();
  await expect(desk.consequences.getByText('“Crew does not watch” also stops answers')).toBeVisible();
  await desk.press('More');
  await page.getByRole('menuitem', { name: 'Group by the place where they take effect' }).click();
  const switches = page.getByRole('region', { name: /^At switches/ });
  await expect(switches.getByRole('listitem')).toHaveCount(1);
  await page.getByLabel('Ask who reaches whom').fill('Can Cameras reach Crew on TCP 443?');
  await page.keyboard.press('Enter');
  const answer = page.getByRole('region', { name: 'Answer' });
  await expect(answer).toContainText('the switches, back: Stopped');

  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await desk.stage('Bench');
  const seat = page.getByRole('region', { name: 'Ask from a seat' });
  await seat.getByRole('combobox', { name: 'Seat' }).click();
  await page.getByRole('option', { name: 'Skerrow Crew, near aq-ap-01', exact: true }).click();
  await seat.getByLabel('Address or name').fill('10.10.50.60');
  await seat.getByRole('button', { name: 'Try' }).click();
  await expect(seat.getByText(/Stopped by aq-sw-\d\d: Crew does not watch\./)).toBeVisible();
  await expect(seat.getByText(/The draft stops it at the switches\./)).toBeVisible();

  await desk.stage('Rules');
  await desk.consequences.getByRole('button', { name: 'Mend: let the gateway do it, which remembers' }).click();
  await expect(desk.consequences.getByText('“Crew does not watch” also stops answers')).toBeHidden();
  await expect(page.getByRole('region', { name: 'This site' })).toContainText('Crew does not watch');
});
