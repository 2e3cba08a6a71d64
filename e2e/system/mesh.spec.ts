import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Estate } from './estate';

/** At Ansel Quay: the AP that comes to hang on another by radio. */
const HANGING = '7K4-0121-53';

let estate: Estate;
let siteId = '';
beforeAll(async () => {
  estate = await Estate.start();
  await estate.signIn();
  await estate.allInStep();
  await estate.tell({ do: 'hurry', share: 0.02 });
  siteId = (await estate.site('Ansel Quay')).id;
});
afterAll(() => estate.end());

const view = () => estate.view(HANGING);
const hangs = async (): Promise<boolean> => {
  const { mesh, state } = await view();
  return state === 'in step' && mesh?.hops === 1;
};

test('an AP that hangs by radio is there again after the controller, and then every device, was away', async () => {
  const mesh = { when: 'never', band: '5', hops: 2, key: { secret: randomUUID() } };
  const { id: deviceId } = await view();
  await estate.edit(
    [
      { type: 'mesh.site', siteId, from: null, to: mesh },
      { type: 'mesh.set', siteId, deviceId, from: null, to: { when: 'always' } },
    ],
    { [mesh.key.secret]: 'K'.repeat(32) },
  );
  await estate.call('POST', `/api/sites/${siteId}/scans`, { deviceIds: null, bands: ['5'] });
  await estate.until('it is known who hears it', async () => {
    const { consequences } = await estate.siteDraft(siteId);
    return !consequences.findings.some(({ code }: { code: string }) => code === 'mesh.nobody');
  });
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.until('it hangs by radio', hangs);
  await estate.tell({ do: 'pull', serial: HANGING, out: true });

  await estate.stopController();
  await estate.startController();
  await estate.until('it called again, by radio', hangs);
  expect((await estate.siteDraft(siteId)).site.meshAps[deviceId]).toEqual({ when: 'always' });

  // What it was told it keeps by itself.
  await estate.stopFleet();
  estate.startFleet();
  const pulled = (): Promise<boolean> => {
    const pull = estate.tell({ do: 'pull', serial: HANGING, out: true });
    return pull.then(() => true).catch(() => false);
  };
  await estate.until('the devices are there', pulled);
  await estate.until('it hangs by radio after it was without power', async () => {
    const { reaches } = await estate.device(HANGING);
    return reaches && (await hangs());
  });
  await estate.allInStep(siteId);
});
