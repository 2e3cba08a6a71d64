import type { JoinedSiteView } from '@iron-lattice/core/assess';
import type { GatewayDocument } from '@iron-lattice/core/document';
import { usualPair, type Operation, type Pair } from '@iron-lattice/core/intent';
import type { DeviceFrame, PairReport, PathChange } from '@iron-lattice/core/line';
import type { DrillForecast, DrillView, SitePathsView, WorstFailure } from '@iron-lattice/core/paths';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
const ids: string[] = [];
const boxes: TestDevice[] = [];
/** What each was told last, and in which order they were. */
const documents: GatewayDocument[] = [];
let order: number[] = [];
let pair: Pair;
const START = Date.parse('2026-05-04T08:00:00Z');

beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  const wish = { name: 'Quay', code: 'qy', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] };
  siteId = (await ada.post('/api/sites', wish)).id;
  for (const n of [1, 2]) {
    const box = new TestDevice(setting.controller.url, `GW-910${n}`, 'GW-4', `02:00:00:00:09:1${n}`);
    await box.call();
    await ada.until('/api/calling', (list: { serial: string }[]) => list.some(({ serial }) => serial === box.serial));
    const { claimed } = await ada.post(`/api/sites/${siteId}/claims`, { serials: [box.serial] });
    ids.push(claimed[0].id);
    boxes.push(box);
    void box.obey(
      (document) => {
        documents[n - 1] = document as GatewayDocument;
        order.push(n);
        return null;
      },
      (asked) => {
        if (asked.type === 'command') box.say({ type: 'answer', id: asked.id, ok: true, text: 'It is played.' });
      },
    );
    await ada.until(`/api/devices?siteId=${siteId}`, ({ rows }: { rows: { id: string; state: string }[] }) =>
      rows.some(({ id, state }) => id === ids[n - 1] && state === 'in step'),
    );
  }
  const tracks = { first: ['wan1', 'wan2'], second: ['wan1', 'wan2'] };
  pair = { ...usualPair(ids[0]!, ids[1]!), tracks };
});
afterAll(async () => {
  for (const box of boxes) box.hangUp();
  await setting.end();
});

const edit = async (...operations: readonly Operation[]) => {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations, secrets: {} });
};
const made = (to: Pair | null, from: Pair | null = null): Operation => ({ type: 'pair.set', siteId, from, to });
const says = (n: number, state: PairReport['state'], changes: readonly PathChange[] = []): DeviceFrame => ({
  type: 'report',
  report: {
    ...{ address: `10.7.0.${n + 2}`, uptime: 60, neighbours: [], leases: [], counters: [], clients: [] },
    uplinks: [{ port: 'wan1', up: true, address: `203.0.113.${n + 9}`, gateway: '203.0.113.1' }],
    paths: {
      ...{ counted: START, changes },
      uplinks: [
        { port: 'wan1', state: 'good', since: START, used: true, sessions: 0 },
        { port: 'wan2', state: 'unplugged', since: START, used: false, standby: true, sessions: 0 },
      ],
      pair: { state, since: START, priority: n === 0 ? 200 : 150, hears: true },
    },
  },
});
const rollOut = async (draftId: string): Promise<void> => {
  order = [];
  const { id } = await ada.post('/api/rollouts', { draftId, despiteErrors: true });
  await ada.until('/api/rollouts', (all: { id: string; state: string }[]) =>
    all.some((each) => each.id === id && each.state === 'done'),
  );
};
const paths = (): Promise<SitePathsView> => ada.get(`/api/sites/${siteId}/paths`);
const states = ({ gateways }: SitePathsView): string =>
  ids.map((id) => gateways.find(({ deviceId }) => deviceId === id)?.pair?.state ?? '').join(' ');

describe('a pair of gateways', () => {
  test('is refused in words where it cannot be, and by those who may not change', async () => {
    const refusal = async (to: object): Promise<string> => {
      const { status, json } = await edit(made({ ...pair, ...to }));
      return `${status} ${JSON.stringify(json)}`;
    };
    expect(await refusal({ secondId: ids[0] })).toMatch(/^422 .*cannot stand in for itself/);
    expect(await refusal({ router: 0 })).toMatch(/^422 .*from 1 to 255/);
    expect(await refusal({ tracks: { first: ['wan9'], second: [] } })).toMatch(/^422 .*wan9 of \S+ is no uplink/);
    expect(await refusal({ power: { first: 'x'.repeat(41), second: '' } })).toMatch(/^400/);
    expect(await refusal({ tracks: { first: Array(9).fill('wan1'), second: [] } })).toMatch(/^400/);
    const oli = await setting.as('oli');
    const { id, head } = await oli.get('/api/drafts/current');
    const asked = await oli.ask('POST', `/api/drafts/${id}/operations`, {
      head,
      operations: [made(pair)],
      secrets: {},
    });
    expect(asked.status).toBe(403);
  });

  test('is rolled out to both, the one that routes first, and each is told its own part', async () => {
    expect((await edit(made(pair))).status).toBe(200);
    const { id } = await ada.get('/api/drafts/current');
    const path = `/api/drafts/${id}/sites/${siteId}/gateways/${ids[1]}/uplinks/keepalived`;
    const file = await (await ada.fetch('GET', path)).text();
    expect(file).toMatch(/vrrp_instance gateways \{[^}]* priority 150\n/);
    expect(file).toContain('ping -q -c 1');
    await rollOut(id);
    expect(order).toEqual([1, 2]);
    expect(documents.map(({ pair: one }) => one?.role)).toEqual(['first', 'second']);
    expect(documents[0]!.interfaces).toEqual(documents[1]!.interfaces);
  });

  test('tells who of the two routes, keeps each change once, and says it in the history', async () => {
    boxes[0]!.say(says(0, 'active'));
    boxes[1]!.say(says(1, 'backup'));
    await ada.until(`/api/sites/${siteId}/paths`, (view: SitePathsView) => states(view) === 'active backup');
    const change = {
      at: START + 90_000,
      port: '',
      what: 'took-over',
      why: 'Nothing was heard of the other.',
      uses: ['wan1'],
    };
    for (let i = 0; i < 2; i++) boxes[1]!.say(says(1, 'active', [change as PathChange]));
    await ada.until(`/api/sites/${siteId}/paths`, (view: SitePathsView) => states(view) === 'active active');
    expect((await paths()).changes.filter(({ what }) => what === 'took-over')).toHaveLength(1);
    const history: { words: string }[] = await ada.until(`/api/devices/${ids[1]}/history`, (all: { words: string }[]) =>
      all.some(({ words }) => /routes now/.test(words)),
    );
    expect(history.map(({ words }) => words)).toContain(
      'It routes now: Nothing was heard of the other. It leaves by wan1.',
    );
    boxes[1]!.say(says(1, 'backup', [change as PathChange]));
    await ada.until(`/api/sites/${siteId}/paths`, (view: SitePathsView) => states(view) === 'active backup');
  });

  test('counts where failures are reckoned up, and where one is really played', async () => {
    const failures: WorstFailure[] = await ada.get('/api/failures?most=1');
    const first = failures.find(({ deviceId }) => deviceId === ids[0])!;
    // What is tracked fails, or the gateway itself: the other takes over.
    expect(first).toMatchObject({ stays: true });
    expect(first.longest!).toBeLessThan(25);
    const mishaps = [{ what: 'off', port: '', from: 5, to: 30 }];
    const forecast: DrillForecast = await ada.post(`/api/devices/${ids[0]}/drill-forecasts`, { mishaps });
    expect(forecast.mean.turns!.map(({ gatewayId }) => gatewayId)).toEqual([ids[0], null, ids[1], ids[0]]);
    expect(forecast.worst.unrouted!).toBeGreaterThan(forecast.mean.unrouted!);
    await ada.post(`/api/devices/${ids[0]}/drills`, { mishaps });
    const at = Date.now();
    const change = {
      at: at + 8000,
      port: '',
      what: 'took-over',
      why: 'Nothing was heard of the other.',
      uses: ['wan1'],
    };
    boxes[1]!.say(says(1, 'active', [change as PathChange]));
    const [seen]: DrillView[] = await ada.until(`/api/sites/${siteId}/drills`, ([one]: DrillView[]) =>
      one!.changes.some(({ what }) => what === 'took-over'),
    );
    expect(seen!.changes.at(-1)).toMatchObject({ deviceId: ids[1], what: 'took-over' });
    expect(seen!.predicted.turns).toHaveLength(4);
  });

  test('has others find both, as far as it is said where', async () => {
    const { id } = await ada.get('/api/drafts/current');
    const view: JoinedSiteView = await ada.get(`/api/drafts/${id}/joined/${siteId}`);
    expect(view.pair).toEqual(ids);
    expect(new Set(view.uplinks.map(({ gateway }) => gateway)).size).toBe(2);
  });

  test('is taken apart: the one that holds nothing any more is told first', async () => {
    expect((await edit(made(null, pair))).status).toBe(200);
    await rollOut((await ada.get('/api/drafts/current')).id);
    expect(order).toEqual([2, 1]);
    expect(documents.map(({ interfaces }) => interfaces.length > 0)).toEqual([true, false]);
  });
});
