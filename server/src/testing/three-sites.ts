import { randomUUID } from 'node:crypto';
import { AT_ONCE, type RolloutView, type WavePlan } from '@iron-lattice/core/rollout';
import { expect } from 'vitest';
import { TestController, type TestCaller } from './test-controller';
import { TestDevice } from './test-device';

/** Sites of an access point each. */
export const SITE_NAMES = ['Alder', 'Birch', 'Cedar'] as const;
export type SiteName = (typeof SITE_NAMES)[number];

/** Three sites which share an SSID, told and in step. */
export class ThreeSites {
  readonly ids = {} as Record<SiteName, string>;
  readonly aps = {} as Record<SiteName, TestDevice>;
  readonly refusing = new Set<SiteName>();
  readonly ssidId = randomUUID();
  private written = 0;
  /** What the draft calls it, and what it called it before its last edit. */
  aired = 'Guests 0';
  before = 'Guests 0';

  private constructor(
    readonly setting: TestController,
    readonly ada: TestCaller,
  ) {}

  static async start(): Promise<ThreeSites> {
    const setting = await TestController.start();
    const sites = new ThreeSites(setting, await setting.as('ada'));
    await sites.found();
    return sites;
  }

  private async found(): Promise<void> {
    const { ada, ids, aps } = this;
    const operations: object[] = [];
    for (const [i, name] of SITE_NAMES.entries()) {
      const wish = { name, code: name.slice(0, 2).toLowerCase(), country: 'IE', timeZone: 'Europe/Dublin' };
      ids[name] = (await ada.post('/api/sites', { ...wish, address: '', tags: i === 0 ? ['trial'] : [] })).id;
      const net = `10.7.${i}`;
      const addresses = { subnet: `${net}.0/24`, gateway: `${net}.1`, addresses: null };
      const segment = { id: randomUUID(), name: 'Guests', vlan: 60, ...addresses };
      operations.push({ type: 'segment.add', siteId: ids[name], segment });
      await this.call(name);
      await ada.post(`/api/sites/${ids[name]}/claims`, { serials: [aps[name].serial] });
    }
    const { ssid, secrets } = this.ssid(this.ssidId, this.aired, { kind: 'estate' });
    operations.push({ type: 'ssid.add', ssid });
    const { id: draftId, head } = await this.current();
    await ada.post(`/api/drafts/${draftId}/operations`, { head, operations, secrets });
    await this.over((await this.begin()).id);
  }

  /** An SSID for guests, with its passphrase beside it. */
  ssid(id: string, name: string, reach: object): { ssid: object; secrets: Record<string, string> } {
    const secret = randomUUID();
    const ssid = { id, name, segment: 'Guests', bands: ['5'], reach, security: 'wpa3-sae', passphrase: { secret } };
    return { ssid, secrets: { [secret]: 'a passphrase of some length' } };
  }

  /** Has a site's access point call, and take its documents unless it is told to refuse. */
  async call(name: SiteName): Promise<void> {
    const number = SITE_NAMES.indexOf(name) + 1;
    const { url } = this.setting.controller;
    this.aps[name] = new TestDevice(url, `AP-000${number}`, 'AP-6', `02:00:00:00:01:0${number}`);
    await this.aps[name].call();
    void this.aps[name].obey(() => (this.refusing.has(name) ? 'not today' : null));
  }

  async end(): Promise<void> {
    for (const ap of Object.values(this.aps)) ap.hangUp();
    await this.setting.end();
  }

  current = () => this.ada.get('/api/drafts/current');

  async edit(operations: readonly object[], secrets: Record<string, string> = {}): Promise<void> {
    const { id, head } = await this.current();
    const asked = { head, operations, secrets };
    const { status, json } = await this.ada.ask('POST', `/api/drafts/${id}/operations`, asked);
    expect([status, json.title]).toEqual([200, undefined]);
  }

  /** Edits what all three sites share. */
  async rename(): Promise<string> {
    const [from, to] = [{ name: this.aired }, { name: `Guests ${++this.written}` }]; // none twice: no device runs it yet
    await this.edit([{ type: 'ssid.set', ssidId: this.ssidId, from, to }]);
    [this.before, this.aired] = [this.aired, to.name];
    return to.name;
  }

  /** Rolls the draft out that people work in. */
  async begin(waves?: WavePlan): Promise<RolloutView> {
    const { id: draftId } = await this.current();
    const asked = { draftId, despiteErrors: true, ...(waves ? { waves } : {}) };
    const { status, json } = await this.ada.ask('POST', '/api/rollouts', asked);
    expect([status, json.title]).toEqual([201, undefined]);
    return json;
  }

  until = (id: string, good: (rollout: RolloutView) => boolean): Promise<RolloutView> =>
    this.ada.until<RolloutView>(`/api/rollouts/${id}`, good, 20_000);
  over = (id: string): Promise<RolloutView> => this.until(id, ({ endedAt }) => endedAt !== null);
  is = (id: string, state: RolloutView['state']): Promise<RolloutView> =>
    this.until(id, (rollout) => rollout.state === state);
  ask = (id: string, what: string) => this.ada.ask('POST', `/api/rollouts/${id}/${what}`);

  /** Names on the air that each access point was told, as they are matched. */
  async onAir(like = /Guests \d+/g): Promise<Record<SiteName, string>> {
    const [rows] = await this.setting.controller.database.query(
      `SELECT d.serial, doc.body FROM device d JOIN document doc ON doc.hash = d.wants WHERE d.site_id IS NOT NULL`,
    );
    const all = rows as { serial: string; body: unknown }[];
    const of = (name: SiteName): string => {
      const row = all.find(({ serial }) => serial === this.aps[name].serial);
      return [...new Set(JSON.stringify(row?.body).match(like) ?? [])].join(', ');
    };
    return { Alder: of('Alder'), Birch: of('Birch'), Cedar: of('Cedar') };
  }

  revision = async (): Promise<number> => (await this.ada.get('/api/estate')).revision;
}

export const plan = (more: Partial<WavePlan>): WavePlan => ({ ...AT_ONCE, ...more });
/** In waves with a site as the canary, and a long wait after it. */
export const held = (more: Partial<WavePlan> = {}): WavePlan =>
  plan({ canary: 'site', waitSeconds: 600, onFailure: 'pause', ...more });
