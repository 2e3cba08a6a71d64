import { expect, test, inOrder } from './fixtures';

inOrder();

const MARN = { method: 'eap-ttls', user: 'marn.ellis', password: 'lantern fish 4', believes: 'stand-ins' };

test('an SSID asks who somebody is: walked as one of the crew before it is told, joined by a phone, and a wrong password is told', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Entry');
  await desk.press('Add access class');
  const added = desk.sheet('New access class');
  await added.getByLabel('Name', { exact: true }).fill('Crew');
  await added.getByRole('combobox', { name: 'Segment its clients join' }).click();
  await page.getByRole('option', { name: 'Crew · VLAN 10' }).click();
  await added.getByLabel('Each down, Mb/s').fill('a lot');
  await expect(added.getByText('A number, such as 20, or nothing.')).toBeVisible();
  await added.getByLabel('Each down, Mb/s').fill('40');
  await added.getByLabel('Sent away after, min').fill('480');
  await added.getByRole('button', { name: 'Add class' }).click();
  await expect(desk.sheet('Crew')).toBeVisible();
  await desk.sheet('Crew').getByRole('button', { name: 'Make a copy' }).click();
  await expect(desk.sheet('Crew 2')).toBeVisible();

  await desk.stage('Wireless');
  await desk.press('Add SSID');
  const fresh = desk.sheet('New SSID');
  await fresh.getByLabel('Name on the air').fill('Skerrow Deck');
  await fresh.getByRole('combobox', { name: 'Security' }).click();
  await page.getByRole('option', { name: 'WPA2/WPA3 with 802.1X' }).click();
  await expect(fresh.getByText('Skerrow accounts, Skerrow standby')).toBeVisible();
  await expect(fresh.getByLabel('Passphrase')).toBeHidden();
  await fresh.getByRole('combobox', { name: 'Segment' }).click();
  await page.getByRole('option', { name: /^Passengers/ }).click();
  await expect(fresh.getByRole('checkbox', { name: /whom a server gives an access class/ })).toBeChecked();
  await fresh.getByRole('button', { name: 'Add SSID' }).click();
  await expect(desk.sheet('Skerrow Deck')).toBeVisible();

  await desk.stage('Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: 'Skerrow Deck' }).click();
  const drafted = page.getByRole('region', { name: 'Walk on the draft' });
  await desk.press('Walk');
  await expect(drafted.getByText('Asked who it is', { exact: true })).toBeVisible();
  await page.getByLabel('Says to be').first().fill('marn.ellis');
  await page.getByLabel('With the password').first().fill('lantern fish 5');
  await page.getByLabel('With the password').first().blur();
  // Nobody is asked for before somebody presses for it: half a password would count as a wrong one.
  await expect(page.getByRole('button', { name: 'Walk again' })).toBeEnabled();
  expect(await estate.radiusSeen()).not.toContain('marn.ellis');
  await desk.press('Walk again');
  await expect(drafted.getByText('Skerrow accounts turns away')).toBeVisible();
  await page.getByLabel('With the password').first().fill('lantern fish 4');
  await desk.press('Walk again');
  await expect(drafted.getByText('Skerrow accounts lets in')).toBeVisible();
  await expect(drafted.getByText('VLAN 10', { exact: true })).toBeVisible();
  await drafted.getByText(/^\d+ packets in/).click();
  await expect(drafted.getByRole('list', { name: 'Packets' })).toContainText('Access-Accept');
  await desk.expectAccessible();

  // What she would get everywhere, why, and whether reality says the same.
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Who gets what' }).click();
  await page.getByRole('textbox', { name: 'Who' }).fill('marn.ellis');
  await page.getByRole('combobox', { name: 'Other servers name the class' }).click();
  await page.getByRole('option', { name: 'Crew', exact: true }).click();
  await desk.press('What would they get?');
  await page.getByRole('row', { name: /“Skerrow Deck”.*Skerrow accounts \(taken so\).*Crew.*Crew 10/ }).click();
  const gets = desk.sheet('marn.ellis at “Skerrow Deck”');
  await expect(gets).toContainText('each of class Crew');
  await expect(gets).toContainText('Filter-Id = Crew');
  await expect(gets).toContainText('after 8 hours');
  await gets.getByLabel('With the password').fill('lantern fish 4');
  await gets.getByRole('button', { name: 'Try it live' }).click();
  await expect(gets.getByText('As it was computed: class Crew, in Crew.')).toBeVisible();
  await gets.getByLabel('With the password').fill('lantern fish 5');
  await gets.getByRole('button', { name: 'Try it live' }).click();
  await expect(gets.getByText(/^They were to be let in, into Crew, and are not/)).toBeVisible();
  await desk.expectAccessible();

  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices$/);
  await estate.tell({ do: 'look-for', mac: '0e:c4:11:00:01:43', ssid: 'Skerrow Deck', enters: MARN });
  const wrong = { ...MARN, password: 'lantern fish 5' };
  await estate.tell({ do: 'look-for', mac: '0e:c4:11:00:01:76', ssid: 'Skerrow Deck', enters: wrong });
  await desk.stage('Wireless');
  const views = page.getByRole('group', { name: 'What is shown' });
  await views.getByRole('button', { name: 'Clients' }).click();
  await page.getByRole('row', { name: /crew-phone-19.*Skerrow Deck/ }).click();
  await expect(desk.sheet('crew-phone-19')).toContainText('marn.ellis');
  await page.getByRole('button', { name: /^In vain/ }).click();
  await expect(page.getByRole('gridcell', { name: 'marn.ellis: Skerrow accounts turns it away' })).toBeVisible();

  // Her session: what she took, another class as her server could say, and its end.
  await desk.stage('Entry');
  await views.getByRole('button', { name: 'Sessions' }).click();
  await page.getByRole('row', { name: /^marn\.ellis .*Skerrow accounts Crew Crew .*[kM]?B/ }).click();
  const session = desk.sheet('marn.ellis');
  await session.getByRole('combobox', { name: 'Another class' }).click();
  await page.getByRole('option', { name: 'Crew 2' }).click();
  await session.getByRole('button', { name: 'Give it that class' }).click();
  await expect(session.getByText('Done, as Skerrow accounts would have it.')).toBeVisible();
  await session.getByText('What went to its device and came back').click();
  await expect(session.getByRole('list', { name: 'Packets' })).toContainText('CoA-ACK');
  await expect(page.getByRole('row', { name: /^marn\.ellis .*Skerrow accounts Crew 2 Crew/ })).toBeVisible();
  await desk.expectAccessible();
  await session.getByRole('button', { name: 'End it' }).click();
  await expect(page.getByRole('row', { name: /^marn\.ellis .*Skerrow accounts Crew Crew/ })).toBeVisible();

  // How its server fares, and what if it dies.
  await views.getByRole('button', { name: 'Servers' }).click();
  await page.getByRole('row', { name: /^Skerrow accounts .*answers \d/ }).click();
  const server = desk.sheet('Skerrow accounts');
  await server.getByRole('button', { name: 'Rehearse it' }).click();
  await expect(server.getByRole('list', { name: 'What if it dies now' })).toContainText(
    '“Skerrow Deck”: “Skerrow standby” is asked instead',
  );
  await desk.expectAccessible();

  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Not known' }).click();
  await page.setViewportSize({ width: 390, height: 844 });
  await expect(page.getByRole('gridcell', { name: 'Skerrow accounts turns marn.ellis away.' })).toBeInViewport();
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.getByRole('button', { name: 'The last 7 days' }).click();
  await expect(page.getByText(/\d+ × turned away/)).toBeVisible();
  await expect(
    page
      .getByRole('grid', { name: 'Failures of the last days' })
      .getByText('Skerrow accounts turns marn.ellis away.')
      .first(),
  ).toBeVisible();
  await desk.expectAccessible();
});

test('ports of one duty ask who is plugged in: the weave says so, and a stranger lands where guests do', async ({
  desk,
  page,
  estate,
}) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Lattice');
  const views = page.getByRole('group', { name: 'What is shown' });
  await views.getByRole('button', { name: 'Ports' }).click();
  await page.getByLabel('Filter').fill('bm-sw-01');
  await page.getByRole('row', { name: /Choose bm-sw-01 port 13 / }).click();
  const sheet = desk.sheet('bm-sw-01 port 13');
  const choose = async (label: string, option: string | RegExp): Promise<void> => {
    const answered = page.waitForResponse((response) => response.url().includes('/operations'));
    await sheet.getByRole('combobox', { name: label, exact: true }).click();
    await page.getByRole('option', { name: option }).click();
    await answered;
  };
  await choose('Duty', 'none');
  await choose('Untagged', 'nothing');
  await choose('Who may speak', '802.1X, else a known MAC address');
  await choose('At once', 'one, and a desk phone');
  await expect(sheet.getByRole('combobox', { name: 'Segment of desk phones' })).toContainText('Voice');
  await choose('Who does not say who it is', 'joins Passengers');
  await sheet.getByPlaceholder('New duty from these…').fill('Any port');
  await sheet.getByRole('button', { name: 'Make a duty' }).click();
  await expect(sheet.getByRole('combobox', { name: 'Duty' })).toContainText('Any port');
  await desk.expectAccessible();
  await views.getByRole('button', { name: 'Grid' }).click();
  await expect(page.getByRole('list', { name: 'Legend' })).toContainText('by who it is');
  await desk.stage('Rollout');
  await desk.rollOutAll(/^Roll out to \d+ devices?$/);

  // Walked from there: who does not say who it is, and one of the crew, with every packet.
  await desk.stage('Bench');
  const pick = async (label: string, option: string): Promise<void> => {
    await page.getByRole('combobox', { name: label, exact: true }).first().click();
    await page.getByRole('option', { name: option, exact: true }).click();
  };
  await pick('Probe', 'at a port');
  await pick('Of device', 'bm-sw-01');
  await pick('Port', '13');
  const live = page.getByRole('region', { name: 'Walk on live' });
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  await expect(live.getByText('Plugged into bm-sw-01 port 13')).toBeVisible();
  await expect(live.getByText(/puts those who do not say who they are into VLAN/)).toBeVisible();
  await page.getByLabel('Says to be').first().fill('marn.ellis');
  await page.getByLabel('With the password').first().fill('lantern fish 4');
  await page.getByLabel('With the password').first().blur();
  await desk.press('Walk again');
  await expect(live.getByText('Skerrow accounts lets in')).toBeVisible();
  await expect(live.getByText('VLAN 10', { exact: true })).toBeVisible();
  await expect(live.getByText('Arrived: the internet answers')).toBeVisible();
  await live.getByText(/^\d+ packets in/).click();
  await expect(live.getByRole('list', { name: 'Packets' })).toContainText('Access-Accept');
  await desk.expectAccessible();

  const at = '5C2-0121-53:13';
  await estate.tell({ do: 'plug', mac: '0e:c4:70:00:00:02', at, name: 'crew-laptop-1', enters: MARN });
  await desk.stage('Lattice');
  await views.getByRole('button', { name: 'Clients' }).click();
  const laptop = page.getByRole('row', { name: /crew-laptop-1.*Crew.*bm-sw-01.*port 13/ });
  await expect(laptop).toBeVisible();

  // Who it is stands among the sessions, and one that is ended is asked anew.
  await desk.stage('Entry');
  const entry = page.getByRole('group', { name: 'What is shown' });
  await entry.getByRole('button', { name: 'Sessions' }).click();
  await page
    .getByRole('row', { name: /^marn\.ellis EAP-TTLS with PAP Skerrow accounts Crew Crew bm-sw-01 port 13/ })
    .click();
  const session = desk.sheet('marn.ellis');
  await expect(session).toContainText('Said by Skerrow accounts');
  await desk.expectAccessible();
  await session.getByRole('button', { name: 'End it' }).click();
  await expect(page.getByText('The session of marn.ellis was ended.')).toBeVisible();
  await expect(session).toContainText('Crew');
  await desk.stage('Lattice');
  await views.getByRole('button', { name: 'Clients' }).click();
  await estate.tell({ do: 'plug', mac: '0e:c4:70:00:00:02', at: null });
  await estate.tell({ do: 'plug', mac: '0e:c4:70:00:00:03', at, name: 'stranger' });
  await expect(page.getByRole('row', { name: /stranger.*Passengers.*bm-sw-01.*port 13/ })).toBeVisible();
  await desk.stage('Entry');
  await page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name: 'Not known' }).click();
  await expect(page.getByRole('row', { name: /stranger.*802\.1X.*Passengers/ })).toBeVisible();
});
