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
  const cut = page.getByRole('row', { name: /Gannet Satellite its link is cut the rest/ });
  await expect(cut).toContainText('not at all');
  await expect(cut).toContainText('Coastal Mobile 100 %');
  await expect(page.getByRole('row', { name: /Gannet Satellite nothing gets through the rest/ })).toContainText(
    'at worst 65 s',
  );
  // Passengers leave by the satellite alone.
  await expect(page.getByRole('row', { name: /Gannet Satellite nothing gets through Passengers/ })).toContainText(
    'as long as it lasts',
  );
  await page.getByLabel('To, s').fill('20');
  await expect(page.getByText('It ends after it began')).toBeVisible();
  await page.getByLabel('From, s').fill('0');
  await page.getByRole('combobox', { name: 'What happens' }).click();
  await page.getByRole('option', { name: 'the gateway has no power' }).click();
  await expect(page.getByRole('combobox', { name: 'Uplink' })).toHaveCount(0);
  await expect(page.getByText(/^The rest: nobody is served for 20 s/)).toBeVisible();
  await page.getByRole('combobox', { name: 'What happens' }).click();
  await page.getByRole('option', { name: 'its link is cut' }).click();
  await expect(
    page.getByText(/^The rest: everybody is served all the time; 100 % of the sessions break. Passengers: nobody is/),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Play it live' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'This is real' })).toContainText(
    'The rest: everybody is served all the time',
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
    page.getByRole('row', { name: /^Petrel pt-gw-01 .*as long as it lasts .*\(Passengers\)/ }),
  ).toBeVisible();
  await expect(
    page.getByRole('row', { name: /^Ansel Quay aq-gw-01 .* 17 s 15 s wan\d: nothing gets through/ }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Any two fail' }).click();
  await expect(page.getByRole('row', { name: /^Ansel Quay aq-gw-01 .*as long as it lasts/ })).toBeVisible();
  await page.getByRole('link', { name: 'Petrel' }).click();
  await expect(page.getByRole('button', { name: /wan1, Gannet Satellite/ })).toBeVisible();
});

test('what is to leave otherwise is said once, put into its turn, found by search, and leaves so once it is rolled out', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Dunmere Depot', 'Paths');
  await page.getByRole('button', { name: 'Add a course' }).click();
  const sheet = desk.sheet('New course');
  await sheet.getByLabel('Called').fill('Pictures');
  await sheet.getByLabel('From', { exact: true }).fill('Cameras');
  await page.keyboard.press('Enter');
  await sheet.getByRole('button', { name: 'Add the course' }).click();
  await expect(sheet.getByText('Say at least one uplink to leave by.')).toBeVisible();
  await sheet.getByLabel('Leaves by, in this order').fill('wan1');
  await page.keyboard.press('Enter');
  await sheet.getByRole('button', { name: 'Add the course' }).click();
  const made = desk.sheet('dd-gw-01 Pictures');
  await expect(made.getByText('all of what leaves of Cameras')).toBeVisible();
  await made.getByLabel('Voice score at least, 1 to 4.4').fill('6');
  await made.getByLabel('Voice score at least, 1 to 4.4').blur();
  await expect(made.getByText('A voice score is 1 to 4.4.')).toBeVisible();
  await made.getByLabel('Voice score at least, 1 to 4.4').fill('');
  await made.getByLabel('There and back at most, ms').fill('300');
  await made.getByLabel('There and back at most, ms').blur();
  const courses = page.getByRole('list', { name: 'Courses of dd-gw-01' });
  await expect(courses.getByRole('button', { name: /Pictures/ })).toContainText('wan1; needs 300 ms; else nothing');
  await expect(courses.getByRole('button', { name: /Pictures/ })).toContainText('not told yet');
  await desk.expectAccessible();
  await page.keyboard.press('Escape');

  // Another one that would take all of it, put before it: then nothing takes the first, which is said.
  await page.getByRole('button', { name: 'Add a course' }).click();
  await sheet.getByLabel('Called').fill('All');
  await sheet.getByLabel('From', { exact: true }).fill('any');
  await page.keyboard.press('Enter');
  await sheet.getByLabel('Leaves by, in this order').fill('wan1');
  await page.keyboard.press('Enter');
  await sheet.getByRole('button', { name: 'Add the course' }).click();
  await desk.sheet('dd-gw-01 All').getByRole('button', { name: 'Earlier' }).click();
  await expect(desk.consequences.getByText('Nothing takes the course “Pictures”')).toBeVisible();
  await desk.sheet('dd-gw-01 All').getByRole('button', { name: 'Take away' }).click();
  await expect(desk.consequences.getByText('Nothing takes the course “Pictures”')).toBeHidden();
  await expect(courses.getByRole('button')).toHaveCount(1);

  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ device/);
  await desk.openSite('Dunmere Depot', 'Paths');
  await expect(courses.getByRole('button', { name: /Pictures/ })).toContainText('leaves by wan1');
});

test('a rehearsal is kept with how long somebody may wait, and says after a rollout when that is too long', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Paths');
  const view = (name: string) =>
    page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name }).click();
  await view('Rehearsal');
  await page.getByLabel('Keep what stands above as').fill('Tidewire silent');
  await page.getByLabel('Anybody waits at most, s').fill('x');
  await expect(page.getByText('Seconds, from 0 to a day.')).toBeVisible();
  await page.getByLabel('Anybody waits at most, s').fill('20');
  await page.getByRole('button', { name: 'Keep it' }).click();
  const kept = page.getByRole('list', { name: 'Kept rehearsals' }).getByRole('listitem');
  await expect(kept).toContainText('passed');
  await view('Uplinks');
  await page.getByRole('button', { name: /wan1, Tidewire/ }).click();
  const sheet = desk.sheet('aq-gw-01 Tidewire');
  await sheet.getByLabel('Lost in a row until it is gone').fill('40');
  await sheet.getByLabel('Lost in a row until it is gone').blur();
  await page.keyboard.press('Escape');
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ device/);
  await desk.openSite('Ansel Quay', 'Paths');
  await view('Rehearsal');
  await expect(kept).toContainText(/failed/);
  await expect(kept).toContainText('Of 1 before, all passed.');
  await desk.expectAccessible();
  await page.getByRole('button', { name: 'Keep Tidewire silent no longer' }).click();
  await expect(kept).toContainText('None yet.');
  await page.getByRole('combobox', { name: 'Uplink' }).click();
  await page.getByRole('option', { name: 'all of them at once' }).click();
  await expect(page.getByText(/^The rest: nobody is served/)).toBeVisible();
});

test('it is guaranteed that somebody is back on the internet soon enough, whichever uplink fails', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Petrel', 'Rules');
  await page.getByRole('button', { name: 'Guarantees' }).click();
  await page.getByRole('button', { name: 'Everybody is back on the internet within 15 s' }).click();
  await page.getByLabel('Waits at most, s').fill('70');
  await page.getByRole('button', { name: 'Guarantee at this site' }).click();
  const line = page.getByRole('list', { name: 'Guarantees' }).getByRole('listitem').filter({ hasText: 'Everybody is' });
  await expect(line).toContainText('broken');
  await expect(line).toContainText('Everybody is without internet for at most 70 s when any one uplink fails');
  await expect(line).toContainText('Passengers, by the course “Passengers”, waits for as long as it lasts.');
  await desk.openSite('Petrel', 'Paths');
  await page.getByRole('button', { name: /^1 Passengers/ }).click();
  const course = desk.sheet('pt-gw-01 Passengers');
  await course.getByRole('combobox', { name: 'While none of them is good' }).click();
  await page.getByRole('option', { name: 'leaves as the rest does' }).click();
  await expect(desk.consequences.getByText(/^Broken: Everybody is without/)).toBeHidden();
});

test('a port is published: what it would open to others is found and mended, it stands in the matrix, and is rolled out', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Paths');
  await page.getByRole('button', { name: 'Publish a port' }).click();
  const sheet = desk.sheet('Publish a port');
  await sheet.getByLabel('Called').fill('Ticket shop');
  await sheet.getByLabel('Port outside').fill('443');
  await sheet.getByLabel('Leads to').fill('10.99.0.7');
  await sheet.getByRole('button', { name: 'Publish it' }).click();
  await expect(sheet.getByText('10.99.0.7 is in no segment of Brinmouth.')).toBeVisible();
  await sheet.getByLabel('Leads to').fill('10.12.20.40');
  await expect(sheet.getByText('In Ticketing')).toBeVisible();
  await sheet.getByRole('button', { name: 'Publish it' }).click();
  const made = desk.sheet('bm-gw-01 Ticket shop');
  await expect(made.getByText('“Ticket shop” leads to whoever is given 10.12.20.40.')).toBeVisible();
  await desk.press(/^Mend: give 10.12.20.40 to nobody in Ticketing/);
  await expect(made.getByText('leads to whoever is given')).toBeHidden();
  await desk.expectAccessible();
  await page.keyboard.press('Escape');
  // The same port once more is refused, and what was typed stays.
  await page.getByRole('button', { name: 'Publish a port' }).click();
  await sheet.getByLabel('Called').fill('Second shop');
  await sheet.getByLabel('Port outside').fill('440-450');
  await sheet.getByLabel('Leads to').fill('10.12.20.41');
  await sheet.getByRole('button', { name: 'Publish it' }).click();
  await expect(sheet.getByText('“Ticket shop” is published at the same port already (443).')).toBeVisible();
  await expect(sheet.getByLabel('Called')).toHaveValue('Second shop');
  await page.keyboard.press('Escape');
  await desk.stage('Rules');
  await desk.press('Reach');
  await page.getByRole('button', { name: /^Internet to Ticketing: some traffic/ }).click();
  await expect(page.getByText('Published: Ticket shop').first()).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ device/);
  await desk.openSite('Brinmouth', 'Paths');
  const list = page.getByRole('list', { name: 'Published by bm-gw-01' });
  await expect(list.getByRole('button')).toContainText('tcp 443 at wan1 203.0.113.13');
  await expect(list.getByRole('button')).toContainText('nobody came yet', { timeout: 60_000 });
});

test('a route is said: what is for a prefix goes there, as the table and a look-up in it say, and a device says so once it is rolled out', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Paths');
  const table = page.getByRole('table', { name: 'What aq-gw-01 goes by' });
  await expect(table.getByRole('row', { name: /^10\.10\.10\.0\/24 on the link, Crew segment Crew/ })).toBeVisible();
  await page.getByLabel('Look up an address').fill('172.20.4.4');
  await expect(page.getByText(/^172\.20\.4\.4 goes by Tidewire \(uplink\)/)).toBeVisible();
  await desk.press('Add a route');
  const sheet = desk.sheet('New route');
  await sheet.getByLabel('Called').fill('Harbour works');
  await sheet.getByLabel('What is for').fill('172.20.0.0/16');
  await sheet.getByLabel('To the neighbour').fill('10.99.0.7');
  await sheet.getByRole('button', { name: 'Add the route' }).click();
  await expect(sheet.getByText('10.99.0.7 is in no segment of Ansel Quay.')).toBeVisible();
  await sheet.getByLabel('To the neighbour').fill('10.10.10.5');
  await expect(sheet.getByText('In Crew')).toBeVisible();
  await sheet.getByRole('button', { name: 'Add the route' }).click();
  const made = desk.sheet('aq-gw-01 Harbour works');
  await expect(made).toBeVisible();
  await expect(page.getByText('172.20.4.4 goes to 10.10.10.5 (route “Harbour works”).')).toBeVisible();
  await desk.expectAccessible();
  // Nowhere instead, and a second one for a part of it by one uplink.
  await made.getByRole('combobox', { name: 'Goes' }).click();
  await page.getByRole('option', { name: 'nowhere: it is dropped' }).click();
  await expect(page.getByText('172.20.4.4 goes nowhere, it is dropped (route “Harbour works”).')).toBeVisible();
  await page.keyboard.press('Escape');
  await desk.press('Add a route');
  await sheet.getByLabel('Called').fill('Their gate');
  await sheet.getByLabel('What is for').fill('172.20.4.0/24');
  await sheet.getByRole('combobox', { name: 'Goes' }).click();
  await page.getByRole('option', { name: 'out by one uplink' }).click();
  await sheet.getByRole('combobox', { name: 'By the uplink' }).click();
  await page.getByRole('option', { name: 'Hillcrest Line' }).click();
  await sheet.getByRole('button', { name: 'Add the route' }).click();
  await expect(page.getByText('172.20.4.4 goes by Hillcrest Line (route “Their gate”).')).toBeVisible();
  await expect(
    table.getByRole('row', { name: /^172\.20\.4\.0\/24 .* Harbour works, 172\.20\.0\.0\/16$/ }),
  ).toBeVisible();
  await page.keyboard.press('Escape');
  // Many at once: what is wrong with a row is said there, and the others are taken.
  await desk.press('Bring a list');
  const list = desk.sheet('Routes of aq-gw-01 from a list');
  await list
    .getByLabel('Paste rows')
    .fill('name,for,goes\nOld works,172.30.0.0/16,10.10.10.5\nTheir gate,172.31.0.0/16,nowhere');
  await list.getByRole('button', { name: 'Look at it' }).click();
  await expect(list.getByText('aq-gw-01 has a route “Their gate” already.')).toBeVisible();
  await list.getByRole('button', { name: 'Put the good rows into the draft' }).click();
  await expect(page.getByRole('list', { name: 'Routes of aq-gw-01' }).getByRole('button')).toHaveCount(3);
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ device/);
  const { id: siteId } = await estate.site('Ansel Quay');
  const devices = await estate.call('GET', `/api/sites/${siteId}/devices`);
  const { id } = await estate.call('GET', '/api/drafts/current');
  const tried = await estate.call('POST', `/api/drafts/${id}/sites/${siteId}/seat-tries`, {
    deviceId: devices.find(({ name }: { name: string }) => name === 'aq-ap-01').id,
    target: '172.20.9.9',
    probe: { ssid: 'Skerrow Crew', does: 'ping' },
  });
  expect(tried.live).toMatchObject({ ok: false, stoppedBy: 'Harbour works' });
  expect(tried.live.text).toContain('Dropped by “Harbour works” of aq-gw-01');
  expect(tried).toMatchObject({ draft: { passes: false }, differs: false });
});

test('as what somebody is seen outside is said, found wanting, put into its turn, and taken away', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Dunmere Depot', 'Paths');
  const sheet = desk.sheet('New translation');
  const add = async (name: string, pool: string): Promise<void> => {
    await page.getByRole('button', { name: 'Add a translation' }).click();
    await sheet.getByLabel('Called').fill(name);
    await sheet.getByLabel('From', { exact: true }).fill('Cameras');
    await page.keyboard.press('Enter');
    await sheet.getByLabel('Addresses of the pool').fill(pool);
    await sheet.getByRole('button', { name: 'Add the translation' }).click();
  };
  await add('Pictures', '10.14.50.0/28');
  await expect(sheet.getByText('Cameras of Dunmere Depot has some of these addresses')).toBeVisible();
  await sheet.getByLabel('Addresses of the pool').fill('198.51.100.20-198.51.100.21');
  await sheet.getByRole('button', { name: 'Add the translation' }).click();
  const made = desk.sheet('dd-gw-01 Pictures');
  await expect(made.getByText('The provider has to lead 198.51.100.20-198.51.100.21 to wan1')).toBeVisible();
  await page.keyboard.press('Escape');
  await add('All pictures', '198.51.100.22');
  const late = desk.sheet('dd-gw-01 All pictures');
  await expect(late.getByText('Nothing takes the translation “All pictures”')).toBeVisible();
  await late.getByRole('button', { name: 'Earlier' }).click();
  const rows = page.getByRole('list', { name: 'Translations of dd-gw-01' }).getByRole('button');
  await expect(rows.first()).toContainText('All pictures');
  await desk.expectAccessible();
  await late.getByRole('button', { name: 'Take away' }).click();
  await expect(rows).toHaveCount(1);
  await expect(rows).toContainText('segment Cameras → internet');
});

test('an uplink is kept below what it can do, parted among the segments by weight, and measured while all are busy', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Guillemot', 'Paths');
  await expect(page.getByText('No uplink is kept below what it can do')).toBeVisible();
  await page.getByRole('button', { name: /wan1, Gannet Satellite/ }).click();
  const sheet = desk.sheet('gm-gw-01 Gannet Satellite');
  await sheet.getByLabel('Kept to, % of what it can do').fill('20');
  await sheet.getByLabel('Kept to, % of what it can do').blur();
  await expect(sheet.getByText('It is kept to 50 to 99 % of what it can do.')).toBeVisible();
  await sheet.getByLabel('Kept to, % of what it can do').fill('95');
  await sheet.getByLabel('Kept to, % of what it can do').blur();
  await expect(sheet.getByText('57 / 7.6 Mb/s; what waits does so here')).toBeVisible();
  await page.keyboard.press('Escape');
  const table = page.getByRole('table', { name: 'While all are busy behind gm-gw-01' });
  const weigh = async (weight: string): Promise<void> => {
    await table.getByLabel('Weight of Crew').fill(weight);
    await table.getByLabel('Weight of Crew').blur();
  };
  await weigh('0');
  await expect(page.getByText('A segment’s weight is more than 0, and 100 at most.')).toBeVisible();
  await weigh('3');
  await expect(table.getByRole('row', { name: /^Crew/ })).toContainText('28.5 / 3.8 Mb/s');
  await expect(table.getByRole('row', { name: /^Voice/ })).toContainText('9.5 / 1.27 Mb/s');
  const measure = async (): Promise<void> => {
    await page.getByRole('button', { name: 'Measure it live' }).click();
    await expect(page.getByRole('alert')).toContainText('fills each for 3 s: Gannet Satellite, some 24 MB.');
    await page.getByRole('button', { name: 'Measure at gm-gw-01' }).click();
  };
  await measure();
  await expect(page.getByRole('alert')).toContainText('wan1 is kept to nothing');
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ device/);
  await desk.openSite('Guillemot', 'Paths');
  await measure();
  await expect(table.getByRole('row', { name: /^Crew/ })).toContainText(/measured 2[789](\.\d)? \/ [34]/);
  await expect(table.getByRole('row', { name: /^Voice/ })).toContainText(/measured (9|10)(\.\d+)? \/ 1/);
  await desk.expectAccessible();
});
