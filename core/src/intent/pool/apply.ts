import { parseVlanList } from '../../address';
import { flaw, type Flaw } from '../../base';
import { byName, editsOfList } from '../kept-list';
import type { SitePart } from '../part';
import type { PoolOperation } from './operations';
import type { VlanPool } from './pool';

/** Applies an edit of a VLAN pool; pools stay ordered by name. */
export const applyPool = editsOfList<PoolOperation, VlanPool, 'site'>({
  noun: 'pool',
  where: 'site',
  list: 'pools',
  order: byName,
  normal: normalised,
  purposed: true,
  check: (_intent, site, pool) => check(site, pool),
});

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
  return flaws;
}

function normalised(pool: VlanPool): VlanPool {
  const list = parseVlanList(pool.vlans);
  return { ...pool, name: pool.name.trim(), vlans: list.ok ? list.canonical : pool.vlans.trim() };
}
