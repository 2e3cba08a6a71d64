import { randomUUID } from 'node:crypto';
import type { Operation, Portal } from '@iron-lattice/core/intent';
import type { Config } from '../platform/config';
import { TestController, type TestCaller } from './test-controller';
import { TestDevice } from './test-device';
import { TestGuest } from './test-guest';

/** A portal that is live at one AP, in the hands of a test. */
export class TestPortal {
  private now: Portal;
  private changes = 0;

  private constructor(
    readonly setting: TestController,
    readonly ada: TestCaller,
    readonly box: TestDevice,
    readonly siteId: string,
    readonly origin: string,
    readonly portal: Portal,
    /** What the AP was told. */
    readonly told: { readonly ssids?: unknown },
  ) {
    this.now = portal;
  }

  /** @param serial of the AP: no other test has it. */
  static async open(portal: Portal, serial: string, more: Partial<Config> = {}): Promise<TestPortal> {
    const setting = await TestController.start(1000, false, more);
    const ada = await setting.as('ada');
    const siteId = (await ada.get('/api/estate')).sites[0].id;
    const box = new TestDevice(setting.controller.url, serial, 'AP-6', '02:00:00:0a:00:02');
    await box.call();
    await ada.until('/api/calling', (all: unknown[]) => all.length === 1);
    await ada.post(`/api/sites/${siteId}/claims`, { serials: [box.serial] });
    const origin = (await box.next('welcome')).portal!;
    await box.comply();
    const ssid = {
      ...{ id: randomUUID(), name: 'Passengers', security: 'open', passphrase: null, bands: ['5'] },
      ...{ segment: 'Crew', reach: { kind: 'estate' }, portal: portal.id },
    };
    const add = [
      { type: 'portal.add', portal },
      { type: 'ssid.add', ssid },
    ] as unknown as Operation[];
    const done = rollOut(ada, add);
    const { hash, document } = await box.next('document');
    box.say({ type: 'applied', hash });
    await box.next('keep');
    box.say({ type: 'kept', hash });
    const { status, json } = await done;
    if (status !== 201) throw new Error(`the portal is not live: ${JSON.stringify(json)}`);
    return new TestPortal(setting, ada, box, siteId, origin, portal, document as never);
  }

  /** Has an edit of the portal live, which tells no AP anything, and waits until guests see it. */
  async change(fields: Partial<Portal>): Promise<void> {
    const before = this.now;
    const title = `Changed ${++this.changes} times`;
    const words = { en: { text: '', terms: '', news: '', ...fields.words?.en, title } };
    this.now = { ...before, ...fields, words };
    const of = (portal: Portal) =>
      Object.fromEntries([...Object.keys(fields), 'words'].map((key) => [key, portal[key as keyof Portal] ?? null]));
    const edit = { type: 'portal.set', portalId: before.id, from: of(before), to: of(this.now) };
    const { status, json } = await this.rollOut(edit as Operation);
    if (status !== 201) throw new Error(`the edit is not live: ${JSON.stringify(json)}`);
    const looks = await this.guest('0e:00:00:00:ff:ff');
    await looks.until(({ text }) => text.includes(title));
  }

  /** Edits the draft in front and rolls it out. */
  rollOut = (...operations: Operation[]): ReturnType<typeof rollOut> => rollOut(this.ada, operations);

  /** The same with secrets, by their references. */
  rollOutWith = (secrets: Readonly<Record<string, string>>, ...operations: Operation[]): ReturnType<typeof rollOut> =>
    rollOut(this.ada, operations, secrets);

  /** Forgets every guest, code and try. */
  async empty(): Promise<void> {
    await this.setting.controller.database.query(
      `DELETE FROM visit; DELETE FROM guest_ask; DELETE FROM visit_code; DELETE FROM guest_use; DELETE FROM guest_block;
       DELETE FROM sign_in_limit`,
    );
  }

  /** What the AP says of a guest. */
  claim = (mac: string, more: object = {}) => ({
    ...{ portal: this.portal.id, mac, at: 'Passengers', url: 'http://news.example/today' },
    ...more,
  });

  /** A guest’s browser, sent by the AP. */
  guest = (mac: string, language = 'en'): Promise<TestGuest> =>
    TestGuest.come(this.origin, this.box.wordOf(this.claim(mac)), language);

  /** The AP asks for a guest. @returns what it is told. */
  async asks(mac: string) {
    this.box.say({ type: 'guests-ask', portal: this.portal.id, macs: [mac] });
    return (await this.box.next('guests')).guests[0]!;
  }

  /** Waits until the AP hears that a guest is let in, or is not: what tests before had it told may come first. */
  async toldOf(isIn: boolean, mac: string) {
    for (;;) {
      const word = (await this.box.next('guests')).guests.find((each) => each.mac === mac);
      if (word?.in === isIn) return word;
    }
  }

  /** The AP does as it was told. */
  complied = (mac: string): void => this.box.say({ type: 'guests-told', portal: this.portal.id, macs: [mac] });

  async end(): Promise<void> {
    this.box.hangUp();
    await this.setting.end();
  }
}

async function rollOut(
  ada: TestCaller,
  operations: readonly Operation[],
  secrets: Readonly<Record<string, string>> = {},
): Promise<{ status: number; json: { flaws?: unknown } }> {
  for (const deadline = Date.now() + 10_000; ;) {
    const { id, head } = await ada.get('/api/drafts/current');
    const edited = await ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets });
    // The one before may not be over yet.
    if (edited.json.type === 'about:lattice/draft.not-open' && Date.now() < deadline) continue;
    if (edited.status !== 200) return edited;
    return ada.ask('POST', '/api/rollouts', { draftId: id, despiteErrors: true });
  }
}
