import { readFileSync } from 'node:fs';
import { expect, test, inOrder } from './fixtures';

inOrder();

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

test('a RADIUS server is tried from an AP: what it says, what follows, and what to do', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Entry');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Servers' }).click();
  await page.getByRole('gridcell', { name: 'Skerrow accounts', exact: true }).click();
  const sheet = desk.sheet('Skerrow accounts');
  await sheet.getByLabel('User name').fill('marn.ellis');
  await sheet.getByLabel('Password', { exact: true }).fill('lantern fish 5');
  const says = sheet.getByRole('status');
  const tries = (): Promise<void> => sheet.getByRole('button', { name: 'Try it' }).click();
  await tries();
  await expect(says).toContainText('Skerrow accounts knows the secret and lets nobody in by this name and password.');
  await sheet.getByLabel('Password', { exact: true }).fill('lantern fish 4');
  await tries();
  await expect(says).toContainText('Let in as “Crew” (Filter-Id), and no class of that name reaches Brinmouth.');
  await expect(sheet.getByRole('list', { name: 'Packets' }).getByText('Access-Accept')).toBeVisible();
  await expect(sheet.getByRole('list', { name: 'Packets' })).toContainText('User-Password(not shown)');
  await desk.expectAccessible();

  // With a class of that name it leads somewhere.
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Classes' }).click();
  await desk.press('Add access class');
  const added = desk.sheet('New access class');
  await added.getByLabel('Name', { exact: true }).fill('Crew');
  await added.getByRole('combobox', { name: 'Segment its clients join' }).click();
  await page.getByRole('option', { name: 'Crew · VLAN 10' }).click();
  await added.getByRole('button', { name: 'Add class' }).click();
  await expect(desk.sheet('Crew')).toBeVisible();
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Servers' }).click();
  await page.getByRole('gridcell', { name: 'Skerrow accounts', exact: true }).click();
  await sheet.getByLabel('User name').fill('marn.ellis');
  await sheet.getByLabel('Password', { exact: true }).fill('lantern fish 4');
  await sheet.getByRole('combobox', { name: 'Tried by' }).click();
  await page.getByRole('option', { name: 'EAP-MD5' }).click();
  await tries();
  await expect(says).toContainText('Let in as Crew (Filter-Id): Crew, VLAN 10.');
  await expect(sheet.getByText('Filter-Id = "Crew"')).toBeVisible();
  await estate.tell({ do: 'radius', name: 'radius.skerrow.example', mood: 'wrong-secret' });
  await tries();
  await expect(says).toContainText('Something answers as Skerrow accounts, but not with our secret.', {
    timeout: 30_000,
  });
  await estate.tell({ do: 'radius', name: 'radius.skerrow.example', mood: null });
});

test('who is asked and known by nobody is told with why, also on a phone', async ({ desk, page, estate }) => {
  await desk.signIn();
  const { id: siteId } = await estate.site('Ansel Quay');
  await desk.openSite('Ansel Quay', 'Entry');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Not known' }).click();
  const [known] = await estate.call('GET', `/api/sites/${siteId}/unknown-clients`);
  await expect(page.getByRole('gridcell', { name: known.mac }).first()).toBeVisible();
  await expect(page.getByRole('gridcell', { name: 'Skerrow accounts does not know it.' }).first()).toBeVisible();
  await expect(page.getByRole('gridcell', { name: 'Enter it there, or list it in a class.' }).first()).toBeVisible();
  await desk.expectAccessible();
  await page.setViewportSize({ width: 390, height: 844 });
  await expect(page.getByRole('gridcell', { name: 'Skerrow accounts does not know it.' }).first()).toBeInViewport();
  await page.setViewportSize({ width: 1280, height: 800 });
});

test('everybody who was seen stands in the register: named, noted, erased when that is wanted, and not kept where so chosen', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Entry');
  await desk.press('Register');
  await expect(
    page.getByText(/^\d+ clients, \d+ of them here now\. Erased 90 days after they were seen last\.$/),
  ).toBeVisible();
  const gate = page.getByRole('row').filter({ hasText: '0e:c4:60:00:00:01' });
  await gate.click();
  const sheet = page.locator('il-sheet');
  await expect(sheet.getByText('it made this address up, and may come with another')).toBeVisible();
  await expect(sheet.getByRole('table', { name: 'Where it was' })).toContainText(/aq-ap-01 “Skerrow Crew” Ansel Quay/);
  await sheet.getByLabel('Called here').fill('Scanner of the pier');
  await sheet.getByLabel('Note').fill('battery replaced in spring');
  await sheet.getByRole('button', { name: 'Note it now' }).click();
  await expect(page.getByRole('row').filter({ hasText: 'Scanner of the pier' })).toContainText('battery replaced');
  await desk.expectAccessible();
  // What people call it stands wherever it is.
  await desk.stage('Lattice');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Clients' }).click();
  await expect(page.getByRole('row', { name: /Scanner of the pier/ })).toBeVisible();
  // And it is found by that, over all sites.
  await page.keyboard.press('Control+k');
  await page.keyboard.type('scanner of');
  await page.getByRole('option', { name: /Scanner of the pier/ }).click();
  await expect(sheet.getByLabel('Note')).toHaveValue('battery replaced in spring');
  await desk.openSite('Ansel Quay', 'Entry');
  await desk.press('Register');

  await desk.press('What is kept');
  await sheet.getByLabel('SSIDs of whose clients nothing is kept').fill('passeng');
  await page.getByRole('option', { name: 'Skerrow Passengers' }).click();
  await sheet.getByRole('button', { name: 'Keep it so' }).click();
  await expect(sheet.getByText(/That erases \d+ clients at once/)).toBeVisible();
  await sheet.getByRole('button', { name: /^Keep it so, and erase \d+ clients$/ }).click();
  await expect(page.getByText(/Kept so from now on; \d+ clients erased\./)).toBeVisible();
  await expect(page.getByText('nothing is kept at 1 SSID')).toBeVisible();
  await expect(page.getByRole('row').filter({ hasText: 'Skerrow Passengers' })).toHaveCount(0);

  await page.getByRole('row').filter({ hasText: 'Scanner of the pier' }).getByRole('checkbox').check();
  await desk.press('Erase 1…');
  await expect(sheet.getByText(/1 of them has a name or a note/)).toBeVisible();
  await sheet.getByRole('button', { name: 'Erase 1 client' }).click();
  await expect(page.getByText('1 client erased.')).toBeVisible();
  await expect(page.getByRole('row').filter({ hasText: 'Scanner of the pier' })).toHaveCount(0);
});

test('a RADIUS server is added with a secret that is drawn, found by search, and its secret shown again', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Petrel', 'Entry');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Servers' }).click();
  await desk.press('Add RADIUS server');
  const added = desk.sheet('New RADIUS server');
  await added.getByLabel('Name', { exact: true }).fill('Bridge');
  await added.getByLabel('Name or address of its host').fill('198.51.100');
  await added.getByRole('button', { name: 'Add server' }).click();
  await expect(added.getByText('“198.51.100” is no name or address')).toBeVisible();
  await added.getByLabel('Name or address of its host').fill('198.51.100.77');
  await added.getByLabel('Secret, shared with it').fill('gannets');
  await expect(added.getByText('7 characters can be tried out')).toBeVisible();
  await added.getByRole('button', { name: 'Draw one' }).click();
  await expect(added.getByLabel('Secret, shared with it')).toHaveValue(/^.{32}$/);
  const secret = await added.getByLabel('Secret, shared with it').inputValue();
  await added.getByRole('button', { name: 'Add server' }).click();
  const sheet = desk.sheet('Bridge');
  await expect(sheet).toBeVisible();
  await expect(sheet.getByLabel('Secret, shared with it')).toHaveValue('');
  await sheet.getByRole('button', { name: 'Show' }).click();
  await expect(sheet.getByLabel('Secret, shared with it')).toHaveValue(secret);
  await sheet.getByLabel('User name').fill('marn.ellis');
  await sheet.getByRole('button', { name: 'Try it' }).click();
  await expect(sheet.getByRole('status')).toContainText(
    '198.51.100.77 is there, and nothing listens on UDP port 1812.',
  );
});

test('users that the controller keeps are made, brought as a list and tried; a class names their group; they change their password themselves', async ({
  desk,
  page,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Entry');
  const views = page.getByRole('group', { name: 'What is shown' });
  const look = (name: string) => views.getByRole('button', { name, exact: true }).click();
  await look('Users');
  await desk.press('Add user');
  const added = desk.sheet('New user');
  await added.getByLabel('Signs in as').fill('jory.pell');
  await added.getByLabel('Groups', { exact: true }).fill('Gangway');
  await added.getByRole('button', { name: 'Add user' }).click();
  const drawn = desk.sheet('1 new password');
  const password = (await drawn.getByRole('definition').textContent())!;
  expect(password).toMatch(/^[a-z2-9]{12}$/);
  await desk.expectAccessible();
  await drawn.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByRole('row', { name: /jory\.pell/ })).toContainText('no class here');

  await desk.press('Bring a list');
  const list = desk.sheet('Users from a list');
  await list
    .getByLabel('Or typed, pasted')
    .fill('name,password,groups\nmarn.ellis,lantern fish 4,Gangway\njory.pell,,');
  await list.getByRole('button', { name: 'Look at it' }).click();
  await expect(list).toContainText('There is already a user “jory.pell”');
  await list.getByRole('button', { name: 'Make the 1 good user' }).click();
  await expect(page.getByRole('row', { name: /marn\.ellis/ })).toBeVisible();

  await desk.press('Have it asked');
  const own = desk.sheet('Have this controller asked');
  await own.getByRole('button', { name: 'Add server' }).click();
  await look('Classes');
  await desk.press('Add access class');
  const gangway = desk.sheet('New access class');
  await gangway.getByLabel('Name', { exact: true }).fill('Gangway');
  await gangway.getByRole('combobox', { name: 'Segment its clients join' }).click();
  await page.getByRole('option', { name: 'Crew · VLAN 10' }).click();
  await gangway.getByLabel('Groups of users').fill('Gangway');
  await gangway.getByRole('button', { name: 'Add class' }).click();
  await expect(desk.sheet('Gangway')).toBeVisible();
  await look('Servers');
  await page.getByRole('gridcell', { name: 'This controller', exact: true }).click();
  const server = desk.sheet('This controller');
  const tries = async (name: string, word: string): Promise<void> => {
    await server.getByLabel('User name').fill(name);
    await server.getByLabel('Password').fill(word);
    await server.getByRole('button', { name: 'Try it' }).click();
  };
  await tries('jory.pell', password);
  await expect(server.getByText('Let in as Gangway (Filter-Id): Crew, VLAN 10.')).toBeVisible();

  await look('Users');
  await page.getByRole('gridcell', { name: 'jory.pell', exact: true }).click();
  const user = desk.sheet('jory.pell');
  await expect(user.getByText('Lead to Gangway')).toBeVisible();
  await user.getByLabel('let in nowhere').check();
  await user.getByRole('button', { name: 'Change it now' }).click();
  await page.getByRole('button', { name: 'Change it back' }).click();
  await expect(user.getByLabel('let in nowhere')).not.toBeChecked();
  await user.getByRole('button', { name: 'Take away' }).click();
  await expect(page.getByRole('row', { name: /jory\.pell/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Bring back' }).click();
  await expect(page.getByRole('row', { name: /jory\.pell/ })).toBeVisible();
  // For a day they can be brought back, also when the message is gone.
  await page.getByRole('gridcell', { name: 'jory.pell', exact: true }).click();
  await user.getByRole('button', { name: 'Take away' }).click();
  await expect(page.getByRole('row', { name: /jory\.pell/ })).toHaveCount(0);
  await desk.press('Taken away');
  await desk.sheet('Taken away').getByRole('button', { name: 'Bring jory.pell back' }).click();
  await expect(page.getByRole('row', { name: /jory\.pell/ })).toBeVisible();
  await expect(desk.sheet('Taken away').getByText('Nobody was taken away in the last day.')).toBeVisible();

  await page.goto(`${desk.estate.address}/own-password`);
  await page.getByLabel('Your name there').fill('jory.pell');
  await page.getByLabel('The password you have').fill('not that one');
  await page.getByLabel('The new one').fill('slack water 24');
  await desk.press('Change it');
  await expect(page.getByText('The name or the password is wrong.')).toBeVisible();
  await page.getByLabel('The password you have').fill(password);
  await desk.press('Change it');
  await expect(page.getByText('jory.pell has the new password.')).toBeVisible();
  await desk.expectAccessible();
});

test('a user is made a certificate and signs in by it, until it is taken back; clients get a profile', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Wireless');
  await desk.press('Add SSID');
  const fresh = desk.sheet('New SSID');
  await fresh.getByLabel('Name on the air').fill('Skerrow Gangway');
  await fresh.getByRole('combobox', { name: 'Security' }).click();
  await page.getByRole('option', { name: 'WPA2/WPA3 with 802.1X' }).click();
  await fresh.getByRole('combobox', { name: 'Segment' }).click();
  await page.getByRole('option', { name: /^Crew/ }).click();
  await fresh.getByRole('button', { name: 'Add SSID' }).click();
  await expect(desk.sheet('Skerrow Gangway')).toBeVisible();
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);

  await desk.stage('Entry');
  const look = (name: string) =>
    page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name, exact: true }).click();
  await look('Users');
  await page.getByRole('gridcell', { name: 'marn.ellis', exact: true }).click();
  const user = desk.sheet('marn.ellis');
  await user.getByLabel('Another one, kept on').fill('laptop');
  await user.getByRole('button', { name: 'Make a certificate' }).click();
  await expect(user.getByText('Its key is told this once')).toBeVisible();
  await desk.expectAccessible();
  const saved = async (button: string): Promise<string> => {
    const coming = page.waitForEvent('download');
    await user.getByRole('button', { name: button }).click();
    return readFileSync(await (await coming).path(), 'utf8');
  };
  const pem = await saved('Save as PEM instead');
  const profile = await saved('Save for wpa_supplicant');
  expect(profile).toContain('eap=TLS');
  expect(profile).toContain('blob-base64-key={');
  expect(await saved('Save for phones and computers')).toContain('<string>Skerrow Gangway</string>');

  const [cert, key] = ['CERTIFICATE', 'PRIVATE KEY'].map(
    (kind) => new RegExp(`-----BEGIN ${kind}-----[^]+?-----END ${kind}-----`).exec(pem)![0],
  );
  await estate.tell({ do: 'carry', user: 'marn.ellis', certificate: { cert, key } });
  const enters = { method: 'eap-tls', user: 'marn.ellis', password: '' };
  await estate.tell({ do: 'look-for', mac: '0e:c4:11:00:00:11', ssid: 'Skerrow Gangway', enters });
  await look('Sessions');
  const session = page.getByRole('row', { name: /^marn\.ellis EAP-TLS This controller Gangway Crew/ });
  await session.click();

  await look('Users');
  await page.getByRole('gridcell', { name: 'marn.ellis', exact: true }).click();
  await user.getByRole('button', { name: 'Take back…' }).click();
  await user.getByRole('button', { name: 'Take this one back' }).click();
  await expect(user.getByText('None that holds.')).toBeVisible();
  await look('Sessions');
  await session.click();
  await desk.sheet('marn.ellis').getByRole('button', { name: 'End it' }).click();
  await expect(session).toHaveCount(0);
  await look('Not known');
  await expect(page.getByRole('gridcell', { name: 'This controller turns marn.ellis away.' })).toBeVisible();
});

test('a directory is tried, asked, and lets somebody in whom the controller does not keep', async ({
  desk,
  page,
  estate,
}) => {
  const there = await estate.directory();
  await desk.signIn();
  await desk.openSite('Ansel Quay', 'Entry');
  const look = (name: string) =>
    page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name, exact: true }).click();
  await look('Users');
  await desk.press('Ask a directory');
  const sheet = desk.sheet('Directory');
  await sheet.getByLabel('Host', { exact: true }).fill('localhost');
  await sheet.getByLabel('Port', { exact: true }).fill(String(there.ldaps));
  await sheet.getByLabel('Account that searches it').fill('cn=lattice,ou=services,dc=skerrow,dc=example');
  await sheet.getByLabel('Its password').fill('reads names and groups');
  await sheet.getByLabel('People are below').fill('ou=people,dc=skerrow,dc=example');
  await sheet.getByLabel('Try it with somebody').fill('ebba.strand');
  await sheet.getByRole('button', { name: 'Try it' }).click();
  await expect(
    sheet.getByText(/Its certificate is not believed: .* Paste the certificate of whoever made/),
  ).toBeVisible();
  await sheet.getByLabel('Believed by the authority').fill(there.authority);
  await sheet.getByLabel('and the password').fill('grey seal 12');
  await sheet.getByRole('button', { name: 'Try it' }).click();
  await expect(sheet.getByText('They are found, and the password is theirs.')).toBeVisible();
  await expect(sheet.getByRole('list', { name: 'What was asked and answered' })).toContainText('memberOf: cn=Deck');
  await desk.expectAccessible();
  await sheet.getByRole('button', { name: 'Ask this directory' }).click();
  await expect(sheet.getByText('It answers.')).toBeVisible();

  // Her group leads to a class once one has it; then a client comes in by her name.
  await look('Classes');
  await page.getByRole('button', { name: 'Gangway', exact: true }).click();
  const gangway = desk.sheet('Gangway');
  await gangway.getByLabel('Groups of users').fill('Gangway; Deck');
  await desk.putIntoDraft(gangway);
  await desk.stage('Rollout');
  // No device hears of groups: the controller answers by them.
  await desk.rollOutAll(/^Roll out$/);
  const enters = { method: 'eap-ttls', user: 'ebba.strand', password: 'grey seal 12' };
  await estate.tell({ do: 'look-for', mac: '0e:c4:11:00:00:22', ssid: 'Skerrow Gangway', enters });
  await desk.stage('Entry');
  await look('Sessions');
  await expect(
    page.getByRole('row', { name: /^ebba\.strand EAP-TTLS with PAP This controller Gangway Crew/ }),
  ).toBeVisible();

  // An account that may too much is found, and so is a directory that does not answer.
  await look('Users');
  await desk.press('Directory: asked besides');
  await sheet.getByLabel('Account that searches it').fill('cn=harbourmaster,ou=services,dc=skerrow,dc=example');
  await sheet.getByLabel('Its password').fill('reads far too much');
  await sheet.getByRole('button', { name: 'Change it now' }).click();
  await expect(sheet.getByText('It answers.')).toBeVisible();
  await page.reload();
  await expect(
    desk.consequences.getByText('The directory’s account may look at what passwords are kept as'),
  ).toBeVisible();
  await estate.tell({ do: 'directory', mood: 'busy' });
  await desk.press('Directory: asked besides');
  await sheet.getByLabel('Try it with somebody').fill('ebba.strand');
  await sheet.getByRole('button', { name: 'Try it' }).click();
  await expect(sheet.getByText('come again later').first()).toBeVisible();
  await estate.tell({ do: 'directory', mood: null });
  await sheet.getByRole('button', { name: 'Take away…' }).click();
  await sheet.getByRole('button', { name: 'Forget it' }).click();
  await expect(page.getByRole('button', { name: 'Ask a directory' })).toBeVisible();
});
