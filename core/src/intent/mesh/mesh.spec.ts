import { describe, expect, test } from 'vitest';
import { sampleId, sampleSite } from '../../testing';
import { apply, type Intent, type MeshEntry, type MeshSite, type Operation } from '..';
import { meshSetting } from './setting';

const sample = sampleSite({ segments: 2, aps: 3 });
const [one, two] = sample.roster.filter(({ model }) => model.startsWith('AP')) as [
  (typeof sample.roster)[0],
  (typeof sample.roster)[0],
];
const roster = (id: string) => sample.roster.find((device) => device.id === id);
const siteId = sample.site.id;
const usual: MeshSite = { when: 'never', band: '5', hops: 2, key: { secret: sampleId(8, 1) } };
const ofSite = (to: MeshSite | null, from: MeshSite | null = null): Operation => ({
  type: 'mesh.site',
  siteId,
  from,
  to,
});
const ofAp = (to: MeshEntry | null, more: object = {}): Operation => ({
  type: 'mesh.set',
  siteId,
  deviceId: one.id,
  from: null,
  to,
  ...more,
});
function done(operation: Operation, intent: Intent = sample.intent) {
  const outcome = apply(intent, operation, roster);
  if (!outcome.ok) throw new Error(outcome.flaws.map(({ message }) => message).join(' '));
  return { intent: outcome.intent, site: outcome.intent.sites.get(siteId)!, inverse: outcome.inverse };
}
function refused(operation: Operation, intent: Intent = sample.intent) {
  const outcome = apply(intent, operation, roster);
  if (outcome.ok) throw new Error('it was taken');
  return outcome.flaws[0]!;
}
const on = done(ofSite(usual)).intent;

describe('how APs hang on each other', () => {
  test('is said for a site, and of single APs in single fields; taken back, all is as before', () => {
    expect(meshSetting(sample.site, one).when).toBe('never');
    const all = done(ofSite({ ...usual, when: 'fallback' }, usual), on);
    expect(meshSetting(all.site, one)).toEqual({ when: 'fallback', band: '5', hops: 2, parents: 'any', own: [] });
    const own = done(ofAp({ when: 'always', parents: [two.id, two.id], hops: 1 }), all.intent);
    expect(meshSetting(own.site, one)).toMatchObject({ when: 'always', hops: 1, parents: [two.id] });
    expect([...meshSetting(own.site, one).own].sort()).toEqual(['hops', 'parents', 'when']);
    expect(meshSetting(own.site, two).when).toBe('fallback');
    expect(done(own.inverse, own.intent).site).toEqual(all.site);
    expect(done(done(ofSite(usual)).inverse, on).site).toEqual(sample.site);
    expect(done(ofAp({ parents: 'any' }), on).site).toEqual(on.sites.get(siteId));
  });

  test('is refused where it cannot be, with what to do', () => {
    expect(refused(ofAp({ when: 'always' }))).toMatchObject({ code: 'mesh.off' });
    expect(refused(ofAp({ when: 'always' }, { from: { hops: 3 } }), on).code).toBe('mesh.changed');
    expect(refused(ofSite(null), on).code).toBe('mesh.changed');
    expect(refused(ofAp({ parents: [] }), on)).toMatchObject({ code: 'mesh.no-parent', field: 'parents' });
    expect(refused(ofAp({ parents: [one.id] }), on).code).toBe('mesh.itself');
    expect(refused(ofAp({ parents: [sampleId(4, 77)] }), on).code).toBe('mesh.parent-unknown');
    expect(refused(ofAp({ parents: [sample.roster[0]!.id] }), on).code).toBe('mesh.parent-unknown');
    expect(refused(ofAp({ when: 'always' }, { deviceId: sample.roster[0]!.id }), on).code).toBe('mesh.device-unknown');
  });

  test('the key between APs stays, and nothing is left said of single APs when the site says nothing', () => {
    expect(refused(ofSite({ ...usual, key: { secret: sampleId(8, 2) } }, usual), on).code).toBe('mesh.key');
    const own = done(ofAp({ when: 'fallback' }), on);
    expect(refused(ofSite(null, usual), own.intent)).toMatchObject({ code: 'mesh.in-use' });
    expect(refused(ofSite(null, usual), own.intent).message).toContain(one.name);
  });
});
