import { expect, test } from 'vitest';
import type { GatewayDocument } from '../document';
import { resolve, type Operation } from '../intent';
import { compileSite } from '../rollout';
import { appliedWith, sampleId, sampleJoin, sampleSites } from '../testing';
import { walk, type WalkFacts } from '.';

const sample = sampleSites({ sites: 3, segments: 2 });
const deviceId = sample.roster[1]!.id;
const home = sample.siteIds[1]!;
const facts: WalkFacts = {
  ...{ taken: new Set(), minute: 0 },
  uplinks: new Map([[`${deviceId} wan1`, { up: true, address: '203.0.113.11' }]]),
};
function walked(to: string | null, ...operations: Operation[]) {
  const { estate, sites } = appliedWith(sample.roster, sample.intent, ...operations);
  const documents = compileSite(resolve(estate, sites.get(home)!), [sample.roster[1]!]);
  const gateway = documents.get(deviceId) as GatewayDocument;
  const port = gateway.ports.find(({ untagged }) => untagged !== undefined)!;
  const { steps, arrived } = walk(
    documents,
    [],
    { deviceId, port: port.name },
    { ...facts, ...(to === null ? {} : { to: { address: to } }) },
  );
  const { title, detail, kind } = steps.at(-1)!;
  return { arrived, title, detail, kind };
}
const route = (via: object): Operation =>
  ({
    ...{ type: 'route.add', siteId: home },
    route: { id: 'r', deviceId, name: 'Works', prefix: '172.20.0.0/16', via },
  }) as Operation;

test('a walk goes to an address: on a link, the gateway itself, or outside as everything else', () => {
  expect(walked('10.0.17.40')).toMatchObject({ arrived: true, title: 'On to Segment 1' });
  expect(walked('10.0.17.1')).toMatchObject({ arrived: true, title: 's1-gw-01 answers' });
  expect(walked('198.51.100.7')).toMatchObject({ arrived: true, kind: 'internet' });
  expect(walked(null)).toMatchObject({ arrived: true, kind: 'internet' });
});

test('it is handed on by a route, or dropped', () => {
  expect(walked('172.20.1.1', route({ kind: 'address', address: '10.0.17.9' }))).toMatchObject({
    ...{ arrived: true, title: 'Handed on by 10.0.17.9' },
    detail: 'The route “Works” leads 172.20.0.0/16 there; what is behind it nobody here knows.',
  });
  expect(walked('172.20.1.1', route({ kind: 'nowhere' }))).toMatchObject({ arrived: false, title: 'Dropped' });
  expect(walked('172.20.1.1', route({ kind: 'uplink', port: 'wan1' }))).toMatchObject({ kind: 'internet' });
});

test('it goes into a tunnel where a joined site may have it, and nowhere where none has', () => {
  const join = sampleJoin(1, 1);
  expect(walked('10.0.1.7', ...join)).toMatchObject({
    arrived: true,
    kind: 'tunnel',
    title: 'Into the tunnel to Site 0',
  });
  const shy: Operation = {
    ...{ type: 'member.set', memberId: sampleId(20, 1), from: { takes: null }, to: { takes: ['10.0.0.0/24'] } },
  };
  expect(walked('10.0.1.7', ...join, shy)).toMatchObject({ arrived: false, title: 'Dropped' });
});

test('rules that stop it end it at the gateway', () => {
  const deny: Operation = {
    ...{ type: 'rule.add', siteId: home, behind: null },
    rules: [
      {
        ...{ id: sampleId(30, 0), verdict: 'deny', services: [{ protocol: 'any' }], from: [{ kind: 'any' }] },
        to: [{ kind: 'addresses', text: '10.0.1.0/24' }],
      },
    ],
  };
  expect(walked('10.0.1.7', ...sampleJoin(1, 1), deny)).toMatchObject({ arrived: false, kind: 'rules' });
});
