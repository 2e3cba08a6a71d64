import { randomUUID } from 'node:crypto';
import { USUAL_SERVER, type Operation, type RadiusServer } from '@iron-lattice/core/intent';
import { RadiusClient } from './radius-client';
import { TestController, type TestCaller } from './test-controller';
import { TestDevice } from './test-device';

/** The secret by which its device asks. */
export const ASKING_SECRET = 'tide tables on the harbour wall';
const secret = randomUUID();
export const ownServer: RadiusServer = {
  ...{ ...USUAL_SERVER, id: randomUUID(), name: 'This controller', own: true, address: '' },
  ...{ secret: { secret }, reach: { kind: 'estate' } },
};
export const deckhands = {
  ...{ id: randomUUID(), name: 'Deckhands', segment: 'Crew', members: [], groups: ['Deck', 'Engine'] },
  reach: { kind: 'estate' as const },
};

/** An estate with one AP that asks this very controller who somebody is, and a class of those in groups. */
export class AskingEstate {
  private constructor(
    readonly setting: TestController,
    readonly ada: TestCaller,
    readonly box: TestDevice,
    readonly siteId: string,
    readonly deviceId: string,
    /** UDP port at which the controller answers. */
    readonly port: number,
    readonly client: RadiusClient,
  ) {}

  static async start(serial: string): Promise<AskingEstate> {
    const setting = await TestController.start();
    const ada = await setting.as('ada');
    const siteId = (await ada.get('/api/estate')).sites[0].id;
    const box = new TestDevice(setting.controller.url, serial, 'AP-6', '02:00:00:08:00:02');
    await box.call();
    await ada.until('/api/calling', (all: unknown[]) => all.length === 1);
    const deviceId = (await ada.post(`/api/sites/${siteId}/claims`, { serials: [box.serial] })).claimed[0].id;
    const port = (await box.next('welcome')).entry!;
    await box.comply();
    const client = new RadiusClient(port, box.mac, ASKING_SECRET);
    const made = new AskingEstate(setting, ada, box, siteId, deviceId, port, client);
    const ssid = {
      ...{ id: randomUUID(), name: 'Crew deck', security: 'wpa2-psk', passphrase: { secret: randomUUID() } },
      ...{ segment: 'Crew', bands: ['5'], reach: { kind: 'estate' }, byClass: true },
    };
    const operations = [
      { type: 'class.add', accessClass: deckhands },
      { type: 'radius.add', radius: ownServer },
      { type: 'ssid.add', ssid } as unknown as Operation,
    ] as Operation[];
    const { status, json } = await made.edit(operations, {
      ...{ [secret]: ASKING_SECRET, [ssid.passphrase.secret]: 'gulls over the quay' },
    });
    if (status !== 200) throw new Error(JSON.stringify(json));
    await made.rollOut();
    return made;
  }

  async edit(operations: Operation[], secrets: Record<string, string> = {}) {
    const { id, head } = await this.ada.get('/api/drafts/current');
    return this.ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets });
  }

  async rollOut(): Promise<void> {
    const { ada, box } = this;
    const { id } = await ada.get('/api/drafts/current');
    const done = ada.ask('POST', '/api/rollouts', { draftId: id, despiteErrors: true });
    void done.then(({ status, json }) => status < 300 || console.error(json));
    const told = await box.next('document');
    if (!JSON.stringify(told.document).includes('"own":true')) throw new Error('it is not told to ask');
    box.say({ type: 'applied', hash: told.hash });
    await box.next('keep');
    box.say({ type: 'kept', hash: told.hash });
    await done;
  }

  async end(): Promise<void> {
    this.box.hangUp();
    await this.setting.end();
  }
}
