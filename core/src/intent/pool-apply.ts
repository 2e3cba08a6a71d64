import { parseVlanList } from '../address';
import { flaw, type Flaw } from '../base';
import { refuse, withSite, type Applied, type Refused } from './edit-result';
import { changed, pick } from './field-change';
import type { Intent, SitePart, VlanPool } from './nouns';
import type { Operation } from './operation';

type PoolOperation = Extract<Operation, { type: 'pool.add' | 'pool.remove' | 'pool.set' }>;

/** Most segments in a pool. */
export const MOST_POOLED = 64;

/** Applies an edit of a VLAN pool; pools stay ordered by name. */
export function applyPool(intent: Intent, site: SitePart, operation: PoolOperation): Applied | Refused {
  const pools = site.pools ?? [];
  if (operation.type === 'pool.add') {
    const pool = normalised(operation.pool);
    if (pools.some((each) => each.id === pool.id)) return refuse(flaw('pool.exists', 'This pool is already there.'));
    const flaws = check(site, pool);
    if (flaws.length > 0) return refuse(...flaws);
    return done(intent, site, [...pools, pool], { type: 'pool.remove', siteId: site.id, poolId: pool.id });
  }
  const pool = pools.find((each) => each.id === operation.poolId);
  if (!pool) return refuse(flaw('pool.unknown', 'This pool is no longer at the site.'));
  const others = pools.filter((each) => each.id !== pool.id);
  if (operation.type === 'pool.remove') return done(intent, site, others, { type: 'pool.add', siteId: site.id, pool });
  const clash = changed(pool, operation);
  if (clash) return refuse(flaw('pool.changed', `Somebody changed the ${clash} of “${pool.name}” meanwhile.`, clash));
  const next = normalised({ ...pool, ...operation.to });
  const flaws = check(site, next);
  if (flaws.length > 0) return refuse(...flaws);
  const inverse: Operation = { ...operation, from: pick(next, operation.to), to: pick(pool, operation.to) };
  return done(intent, site, [...others, next], inverse);
}

/** Words for what is wrong with a list of VLAN IDs. */
const LIST_WORDS = {
  empty: 'Say which VLAN IDs, such as 2,30-32,40.',
  syntax: 'Write VLAN IDs and ranges parted by commas, such as 2,30-32,40.',
  out_of_range: 'VLAN IDs go from 1 to 4094.',
  reversed: 'A range ends before it starts.',
} as const;

function check(site: SitePart, pool: VlanPool): Flaw[] {
  const flaws: Flaw[] = [];
  if (pool.name === '') flaws.push(flaw('pool.name-empty', 'Give the pool a name.', 'name'));
  const name = pool.name.toLowerCase();
  if (site.pools?.some((other) => other.id !== pool.id && other.name.toLowerCase() === name))
    flaws.push(flaw('pool.name-taken', `This site already has a pool “${pool.name}”.`, 'name'));
  const segment = site.segments.find((each) => each.name.toLowerCase() === name);
  if (segment) {
    const text = `“${segment.name}” is a segment here; an SSID that names it would not find the pool.`;
    flaws.push(flaw('pool.name-segment', text, 'name'));
  }
  const list = parseVlanList(pool.vlans);
  if (!list.ok) flaws.push(flaw(`pool.${list.error}`, LIST_WORDS[list.error], 'vlans'));
  else if (list.ids.length > MOST_POOLED) {
    const text = `A pool has ${MOST_POOLED} segments at most; this one has ${list.ids.length}.`;
    flaws.push(flaw('pool.many', text, 'vlans'));
  }
  return flaws;
}

function normalised(pool: VlanPool): VlanPool {
  const list = parseVlanList(pool.vlans);
  return { ...pool, name: pool.name.trim(), vlans: list.ok ? list.canonical : pool.vlans.trim() };
}

function done(intent: Intent, site: SitePart, pools: readonly VlanPool[], inverse: Operation): Applied {
  const { pools: _old, ...rest } = site;
  const sorted = [...pools].sort((a, b) => (a.name < b.name ? -1 : 1));
  return { ok: true, intent: withSite(intent, pools.length === 0 ? rest : { ...rest, pools: sorted }), inverse };
}
