import { randomUUID } from 'node:crypto';
import type { Answer, ReachCell, ReachMatrix, SiteDraft } from '@iron-lattice/core/assess';
import type { Operation, RuleListPreview } from '@iron-lattice/core/intent';
import type { RolloutCheck } from '@iron-lattice/core/rollout';
import { readEnds, readServices, type Rule } from '@iron-lattice/core/rules';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { NameServer } from '../testing/name-server';
import { TestController, type TestCaller } from '../testing/test-controller';
import { HitBook } from './hit-book';
import type { RuleHits } from './rules.service';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
});
afterAll(() => setting.end());

const site = (): Promise<SiteDraft> => ada.get(`/api/drafts/current/sites/${siteId}`);
const base = async (): Promise<string> => `/api/drafts/${(await ada.get('/api/drafts/current')).id}/sites/${siteId}`;
async function edit(...operations: Operation[]) {
  const { id, head } = await ada.get('/api/drafts/current');
  return ada.ask('POST', `/api/drafts/${id}/operations`, { head, operations });
}
const rule = (verdict: Rule['verdict'], from: string, to: string, services = 'any'): Rule => ({
  id: randomUUID(),
  verdict,
  from: readEnds(from),
  to: readEnds(to),
  services: readServices(services).services,
});
const add = (...rules: Rule[]): Operation => ({ type: 'rule.add', siteId, rules, behind: null });

test('rules are kept in their order, refused with the field that is wrong, and taken back', async () => {
  const first = rule('allow', 'segment Crew', 'internet', 'tcp 80,443');
  const last = rule('deny', 'segment Crew', 'any');
  expect((await edit(add(first, last))).status).toBe(200);
  const kept = (await site()).site.rules!;
  expect(kept).toEqual([first, last]);
  const move = { type: 'rule.move', siteId, ruleId: last.id, from: first.id, to: null } as const;
  expect((await edit(move)).status).toBe(200);
  const shadowed = (await site()).consequences.findings.find(({ code }) => code === 'rules.shadowed')!;
  expect(shadowed.place).toMatchObject({ kind: 'rule', id: first.id });
  expect((await edit(...shadowed.mend!.operations)).status).toBe(200);
  expect((await site()).site.rules).toEqual([first, last]);
  const refused = await edit(add(rule('deny', '10.5.10.9-10.5.10.1', 'any')));
  expect(refused.status).toBe(422);
  expect(refused.json.flaws).toMatchObject([{ code: 'rule.address', field: 'rules.0.from' }]);
  await ada.ask('POST', `/api/drafts/${(await ada.get('/api/drafts/current')).id}/undo`, {});
  expect((await site()).site.rules).toEqual([last, first]);
  await ada.ask('POST', `/api/drafts/${(await ada.get('/api/drafts/current')).id}/redo`, {});
});

test('a question may name a name of the DNS: the answer says what it stood for; one that is not known is told', async () => {
  const names = await NameServer.start({ 'tickets.skerrow.example': ['198.51.100.80', '198.51.100.81'] });
  try {
    const put = async (to: string): Promise<Answer> => {
      const question = { from: 'Crew', to, services: 'tcp 443' };
      return ada.post(`${await base()}/ask`, { question, on: 'draft', minute: null });
    };
    const found = await put('tickets.skerrow.example');
    expect(found.understood).toBe('Can segment Crew reach tickets.skerrow.example on tcp 443?');
    expect(found.lookedUp).toEqual([
      { name: 'tickets.skerrow.example', addresses: ['198.51.100.80', '198.51.100.81'] },
    ]);
    expect((await put('198.51.100.80')).reach).toBe(found.reach);
    expect(await put('nowhere.skerrow.example')).toMatchObject({ flaws: [{ code: 'ask.name' }] });
  } finally {
    names.end();
  }
});

test('reach, a cell of it and a question are answered by whoever may look, and change nothing', async () => {
  const oli = await setting.as('oli');
  const at = await base();
  const matrix: ReachMatrix = await oli.get(`${at}/reach`);
  const place = (name: string): number => matrix.places.findIndex((each) => each.name === name);
  expect(matrix.draft[place('Crew')]![place('Internet')]).toBe('some');
  expect(matrix.live).toBeNull();
  const asked = { on: 'draft', minute: null };
  const [from, to] = [matrix.places[place('Crew')]!.key, 'internet'];
  const cell: ReachCell = await oli.post(`${at}/reach-cell`, { from, to, ...asked });
  expect(cell.allowed.map(({ services }) => services)).toContainEqual(['TCP 80', 'TCP 443']);
  expect((await oli.ask('POST', `${at}/reach-cell`, { from: 'nowhere', to, ...asked })).status).toBe(404);
  const question = { from: 'Crew', to: '198.51.100.9', services: 'udp 53' };
  const answer: Answer = await oli.post(`${at}/ask`, { question, ...asked });
  expect(answer).toMatchObject({ reach: 'none', there: [{ passed: false }] });
  expect((await site()).site.rules).toHaveLength(2);
});

test('a list is looked at row by row; files say the rules as nftables, access lists and CSV', async () => {
  const at = await base();
  const csv = 'verdict,from,to,services\nallow,Crew,internet,udp 53\nmaybe,Crew,internet,udp 53\n';
  const seen = (await ada.upload(`${at}/rule-list?book=site`, csv)).json as RuleListPreview;
  expect(seen.rows.map(({ good, flaws }) => good?.verdict ?? flaws[0]!.code)).toEqual(['allow', 'rule.verdict']);
  expect((await edit(...seen.operations)).status).toBe(200);
  expect((await site()).site.rules).toHaveLength(3);
  const text = async (format: string): Promise<string> => (await ada.fetch('GET', `${at}/rules/${format}`)).text();
  expect(await text('csv')).toContain('allow,segment Crew,internet,udp 53');
  expect(await text('nft')).toMatch(/ip saddr 10\.5\.10\.0-10\.5\.10\.255 .*udp dport 53.* accept/);
  expect(JSON.parse(await text('acl'))).toHaveProperty('ietf-access-control-list:acls');
});

test('what would break a guarantee or cut devices off is not rolled out without a reason and the site’s name', async () => {
  const guarantee = {
    id: randomUUID(),
    kind: 'always' as const,
    from: readEnds('segment Management'),
    to: readEnds('controller'),
    services: readServices('tcp 443').services,
  };
  await edit(
    { type: 'controller.set', from: [], to: ['203.0.113.200'] },
    { type: 'guarantee.add', siteId, guarantee },
    add(rule('deny', 'segment Management', 'internet')),
  );
  const { id } = await ada.get('/api/drafts/current');
  const check: RolloutCheck = await ada.get(`/api/drafts/${id}/rollout-check`);
  expect(check.broken).toMatchObject([{ siteName: 'Pier' }]);
  expect(check.lockOuts).toMatchObject([{ siteName: 'Pier', name: 'pr-sw-01' }]);
  const start = async (more: object): Promise<string> => {
    const response = await ada.ask('POST', '/api/rollouts', { draftId: id, despiteErrors: true, ...more });
    return response.status === 201 ? 'started' : (response.json as { type: string }).type.split('/').at(-1)!;
  };
  expect(await start({})).toBe('rollout.guarantee');
  expect(await start({ reason: 'moving house' })).toBe('rollout.lock-out');
  expect(await start({ reason: 'moving house', sites: ['pier'] })).toBe('rollout.lock-out');
  expect(await start({ reason: 'moving house', sites: ['Pier'] })).toBe('started');
  const [rows] = await setting.controller.database.query(`SELECT detail FROM journal WHERE act = 'rollout.start'`);
  expect(rows).toMatchObject([{ detail: { reason: 'moving house', cutOff: ['Pier: pr-sw-01'] } }]);
  await ada.until<{ endedAt: string | null }[]>('/api/rollouts', (all) => all.every(({ endedAt }) => endedAt !== null));
});

test('hits are added up over restarts of a device and of the controller', async () => {
  const { database } = setting.controller;
  const [device] = (await ada.get(`/api/sites/${siteId}/devices`)) as { id: string }[];
  const failed = (error: unknown): void => {
    throw error;
  };
  const hits = async (): Promise<RuleHits[]> => ada.get(`/api/sites/${siteId}/rule-hits`);
  const known = new Set(['a']);
  const book = new HitBook(database, failed, failed);
  const invented = { rule: 'nobody told it this one', packets: 1 };
  book.take(device!.id, [{ rule: 'a', packets: 7 }, invented], known); // it may have counted these long ago
  await book.close();
  expect(await hits()).toMatchObject([{ ruleId: 'a', packets: 0, lastAt: null }]);
  book.take(device!.id, [{ rule: 'a', packets: 10 }], known);
  book.take(device!.id, [{ rule: 'a', packets: 2 }], known); // started anew
  await book.close();
  const [row] = await hits();
  expect(row).toMatchObject({ packets: 5 });
  expect(row!.lastAt).not.toBeNull();
});

test('what a rule noted is told with the rule, the newest first, and by which device', async () => {
  const { database } = setting.controller;
  const [device] = (await ada.get(`/api/sites/${siteId}/devices`)) as { id: string; name: string }[];
  const note = (second: number, of: string) => ({
    at: `2026-11-23T10:00:0${second}.000Z`,
    rule: of,
    packet: `10.5.10.9 → 10.5.20.${second}, TCP 631`,
    passed: false,
  });
  await database.query(
    `UPDATE device SET report = coalesce(report, '{}'::jsonb) || jsonb_build_object('notes', :notes::jsonb) WHERE id = :id`,
    { replacements: { id: device!.id, notes: JSON.stringify([note(1, 'n'), note(2, 'n'), note(3, 'other')]) } },
  );
  const failed = (error: unknown): void => {
    throw error;
  };
  const book = new HitBook(database, failed, failed);
  book.take(device!.id, [{ rule: 'n', packets: 2 }], new Set(['n']));
  await book.close();
  const rows: RuleHits[] = await ada.get(`/api/sites/${siteId}/rule-hits`);
  const own = rows.find(({ ruleId }) => ruleId === 'n')!;
  expect(own.notes).toEqual([2, 1].map((second) => ({ ...note(second, 'n'), device: device!.name })));
});

test('a device’s present address, as it was heard, is offered to be reserved, and the rule is in force then', async () => {
  const { database } = setting.controller;
  const before = await site();
  const management = before.site.segments.find(({ id }) => id === before.site.managementId)!;
  const addresses = { first: '10.5.1.20', last: '10.5.1.200', leaseSeconds: 3600 };
  const given: Operation = {
    type: 'segment.set',
    siteId,
    segmentId: management.id,
    from: { addresses: null },
    to: { addresses },
  };
  await database.query(`UPDATE device SET address = '10.5.1.77' WHERE name = 'pr-sw-01'`);
  const own = rule('allow', 'device pr-sw-01', 'segment Crew', 'udp 514');
  expect((await edit(given, add(own))).status).toBe(200);
  const lost = async () =>
    (await site()).consequences.findings.find(
      ({ code, place }) => code === 'rule.device-nowhere' && place.id === own.id,
    );
  const { mend } = (await lost())!;
  expect(mend!.label).toBe('reserve 10.5.1.77 for pr-sw-01');
  expect((await edit(...mend!.operations)).status).toBe(200);
  expect(await lost()).toBeUndefined();
});
