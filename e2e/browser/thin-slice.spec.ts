import { expect, test, inOrder } from './fixtures';

inOrder();

const PASSPHRASE = 'half past nine sailing';

test('from a box that calls in to a client that gets its address', async ({ desk, page, estate }) => {
  await desk.signInByForm();
  await test.step('a new site is empty', async () => {
    await desk.addSite('Eastholm');
    await expect(page.getByText('No device at this site yet.')).toBeVisible();
  });
  await test.step('three calling devices are claimed, named and come into step', () => desk.claimAllCalling());
  await test.step('a segment follows from a name and a VLAN ID', async () => {
    await desk.addSegment('Harbour', 40);
    await expect(page.getByLabel('Subnet')).toHaveValue(/^10\.\d+\.40\.0\/24$/);
  });
  await test.step('an SSID on it shows what lacks, and the mend adds exactly that tag', async () => {
    await desk.addSsid('Eastholm Harbour', PASSPHRASE, 'Harbour');
    await expect(desk.consequences.getByText(/^Harbour stops at .*-sw-01 port 7$/)).toBeVisible();
    await desk.press(/^Mend: close them/); // free ports would let anybody in among the devices
    await expect(desk.consequences.getByText(/free ports of .* hand out Management$/)).toBeHidden();
    await desk.press(/^Mend: tag 40 on port 7/);
    await expect(desk.consequences.getByText(/^Nobody uses the 6 GHz radio of .*-ap-01$/)).toBeVisible();
    await desk.stage('Rollout');
    const lines = page.getByRole('listitem').filter({ hasText: 'port › 7 › tagged' });
    await expect(lines).toHaveCount(1);
    await expect(lines).toContainText('40');
  });
  await test.step('the rollout is watched live until every device is in step', async () => {
    await desk.press('Roll out to 3 devices');
    await expect(page.getByText('Revision 1 is live')).toBeVisible();
    const past = page.getByRole('region', { name: 'Rollouts so far' });
    await expect(past.getByText('in step')).toHaveCount(3);
    await expect(past).toContainText('Revision 1');
  });
  await test.step('the probe arrives on draft and live, each step with what decided it', async () => {
    await desk.stage('Bench');
    await desk.press('Walk');
    for (const on of ['Walk on the draft', 'Walk on live']) {
      const walk = page.getByRole('region', { name: on });
      await expect(walk.getByText('Arrived: the internet answers')).toBeVisible();
      await expect(walk.getByRole('listitem')).toHaveCount(9);
      await expect(walk.getByText('decided by')).toHaveCount(9);
      await expect(walk.getByText(/^Given 10\.\d+\.40\.\d+$/)).toBeVisible();
      await expect(walk.getByText(/-sw-01 port 7, tag 40$/)).toBeVisible();
    }
    const ap = (await estate.devices()).find((device) =>
      device.clients.some((client) => client.ssid === 'Eastholm Harbour'),
    );
    expect(ap?.clients[0]?.address).toMatch(/^10\.\d+\.40\.\d+$/);
  });
  await test.step('undoing the mend stops the draft’s walk at the port; live still works; redo brings it back', async () => {
    const draft = page.getByRole('region', { name: 'Walk on the draft' });
    await page.keyboard.press('Control+z');
    await expect(page.getByText('takes back the last edit of what is live')).toBeVisible();
    await expect(draft.getByText(/^Stopped at .*-sw-01 port 7$/)).toBeVisible();
    await expect(draft.getByText(/does not carry VLAN 40 tagged/)).toBeVisible();
    await expect(
      page.getByRole('region', { name: 'Walk on live' }).getByText('Arrived: the internet answers'),
    ).toBeVisible();
    await page.keyboard.press('Control+Shift+z');
    await expect(draft.getByText('Arrived: the internet answers')).toBeVisible();
  });
  await test.step('everything is there after the controller was stopped and started', async () => {
    await estate.stopController();
    await expect(page.getByText('The controller does not answer. What you see may be old')).toBeVisible();
    await estate.startController();
    await expect(page.getByText('The controller does not answer. What you see may be old')).toBeHidden();
    await desk.stage('Intake');
    await expect(page.getByRole('row', { name: /in step/ })).toHaveCount(3);
  });
});

test('undoing the mend before the rollout stops the walk at the switch port and says why', async ({ desk, page }) => {
  await desk.signIn();
  await desk.openSite('Brinmouth', 'Bench');
  await page.getByRole('combobox', { name: 'Probe on SSID' }).click();
  await page.getByRole('option', { name: 'Skerrow Passengers' }).click();
  await page.getByRole('combobox', { name: 'Near access point' }).click();
  await page.getByRole('option', { name: 'bm-ap-05' }).click();
  await desk.press('Walk');
  const draft = page.getByRole('region', { name: 'Walk on the draft' });
  await expect(draft.getByText('Stopped at bm-sw-02 port 7')).toBeVisible();
  await desk.press(/^Mend: tag 40 on port 7 of bm-sw-02/);
  await expect(draft.getByText('Arrived: the internet answers')).toBeVisible();
  await expect(
    page.getByRole('region', { name: 'Walk on live' }).getByText('Stopped at bm-sw-02 port 7'),
  ).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(draft.getByText('Stopped at bm-sw-02 port 7')).toBeVisible();
  await page.keyboard.press('Control+Shift+z');
  await expect(draft.getByText('Arrived: the internet answers')).toBeVisible();
  await desk.press(/^Draft/);
  await page.getByRole('menuitem', { name: 'Discard this draft' }).click();
  await expect(draft.getByText('Stopped at bm-sw-02 port 7')).toBeVisible();
});
