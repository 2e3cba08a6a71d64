import { contains, formatIp, formatPrefix, parseIp, parsePrefix } from '../../address';
import { flaw, type Flaw } from '../../base';
import { sheetFor } from '../../hardware';
import type { RosterLookup } from '../edit';
import { editsOfList } from '../kept-list';
import { isIn } from '../overlay/spans';
import type { EstatePart, Intent } from '../part';
import { uplinkPorts } from '../uplink/setting';
import { joinOf } from './joins';
import { meeting, joinSpans, spansOfJoin } from './join-spans';
import { foundKey, MOST_HUBS, MOST_MEMBERS, type Member } from './member';
import type { MemberOperation } from './operations';
import { OVERLAY_KEY } from './secrets';

/** Applies an edit of a site that is joined to others. */
export const applyMember = editsOfList<MemberOperation, Member, 'estate'>({
  noun: 'member',
  title: 'joined site',
  where: 'estate',
  list: 'members',
  normal: normalised,
  check: (intent, estate, member, { roster }) => check(intent, estate, member, roster),
  stays: (intent, estate, member) => whyItStays(intent, estate, member),
  fixed: (intent, estate, { before, next }) => {
    if (before.siteId !== next.siteId)
      return flaw('member.site', 'Which site it is stays: take it out, and join the other.', 'siteId');
    return before.role === 'hub' && next.role === 'spoke' ? whyItStays(intent, estate, before, 'role') : null;
  },
});

const nameIn = ({ sites }: Intent, { siteId }: Member): string => sites.get(siteId)?.name ?? 'a site that is gone';

/** Who has it as a hub, so that it has to stay one. */
function whyItStays(intent: Intent, { members = [] }: EstatePart, hub: Member, field?: string): Flaw | null {
  const users = members.filter(({ hubs }) => hubs.includes(hub.id));
  if (users.length === 0) return null;
  const names = users.slice(0, 3).map((each) => nameIn(intent, each));
  const more = users.length > 3 ? ` and ${users.length - 3} more` : '';
  return flaw(
    'member.is-hub',
    `${nameIn(intent, hub)} is a hub of ${names.join(', ')}${more}. Change that first.`,
    field,
  );
}

function check(intent: Intent, estate: EstatePart, member: Member, roster: RosterLookup): Flaw[] {
  const { overlay, members = [] } = estate;
  const others = members.filter(({ id }) => id !== member.id);
  const site = intent.sites.get(member.siteId);
  if (!overlay) return [flaw('member.no-overlay', 'Say first where the networks of your sites are.')];
  if (!site) return [flaw('member.site-unknown', 'This site is no longer in the estate.', 'siteId')];
  const device = roster(member.deviceId);
  if (device?.siteId !== site.id || sheetFor(device).kind !== 'gateway')
    return [flaw('member.device-unknown', `This gateway is no longer at ${site.name}.`, 'deviceId')];
  if (others.length >= MOST_MEMBERS) return [flaw('member.many', `${MOST_MEMBERS} sites are joined at most.`)];
  if (others.some(({ siteId }) => siteId === site.id))
    return [flaw('member.twice', `${site.name} is joined already.`, 'siteId')];
  if (!OVERLAY_KEY.test(member.key.public))
    return [flaw('member.key', 'Its key is none: let the controller make one.', 'key')];
  if (others.some(({ key }) => key.public === member.key.public || key.secret === member.key.secret))
    return [flaw('member.key-taken', 'Another site has this key: let the controller make one.', 'key')];
  const pair = site.pair && [site.pair.firstId, site.pair.secondId];
  const ends = pair?.includes(device.id) ? pair : [device.id];
  const ports = ends.flatMap((id) => {
    const gateway = roster(id);
    return gateway ? uplinkPorts(gateway).map(({ name }) => foundKey(member, id, name)) : [];
  });
  return [
    ...checkHubs(intent, member, others),
    ...checkShares(member, overlay.spans),
    ...checkFound(member, overlay.spans, ports),
    ...checkOverlaps(estate, member, joinOf(member, site, overlay.spans).carries, overlay.spans),
  ];
}

function checkHubs(intent: Intent, member: Member, others: readonly Member[]): Flaw[] {
  const { role, hubs, direct, leaves, id } = member;
  const byId = new Map(others.map((each) => [each.id, each]));
  if (role === 'hub') {
    if (hubs.length > 0)
      return [flaw('member.hub-of-hub', 'A hub has no hubs: hubs are joined to each other by themselves.', 'hubs')];
    if (direct.length > 0)
      return [flaw('member.hub-direct', 'A hub has tunnels to those that have it as their hub.', 'direct')];
    if (leaves === 'hub')
      return [flaw('member.hub-leaves', 'A hub is where others leave: it does so itself.', 'leaves')];
    const hubsThere = others.filter((each) => each.role === 'hub').length;
    return hubsThere >= MOST_HUBS ? [flaw('member.hubs-many', `There are ${MOST_HUBS} hubs at most.`, 'role')] : [];
  }
  if ([...hubs, ...direct].includes(id))
    return [flaw('member.own-hub', 'A site is not its own hub.', hubs.includes(id) ? 'hubs' : 'direct')];
  if (hubs.length === 0) return [flaw('member.no-hub', 'Say which hub it is joined to.', 'hubs')];
  for (const [field, ids, wanted] of [
    ['hubs', hubs, 'hub'],
    ['direct', direct, 'spoke'],
  ] as const) {
    if (new Set(ids).size < ids.length) return [flaw('member.repeated', 'One is named twice.', field)];
    const bad = ids.find((each) => byId.get(each)?.role !== wanted);
    if (bad === undefined) continue;
    const other = byId.get(bad);
    const what = wanted === 'hub' ? 'is no hub' : 'is a hub: name it among those';
    return [flaw('member.not-joined', other ? `${nameIn(intent, other)} ${what}.` : 'One is no longer joined.', field)];
  }
  return [];
}

function checkShares(member: Member, spans: readonly string[]): Flaw[] {
  const { prefixes, takes } = member;
  for (const [field, list] of [
    ['prefixes', prefixes],
    ['takes', takes ?? []],
  ] as const) {
    const bad = list.find((text) => !parsePrefix(text));
    if (bad !== undefined) return [flaw('member.prefix', `“${bad}” is no prefix: such as 10.60.0.0/16.`, field)];
    const out = list.find((text) => !isIn(text, spans));
    if (out !== undefined)
      return [flaw('member.outside', `${out} is not where your sites’ networks are: ${spans.join(', ')}.`, field)];
  }
  return takes?.length === 0
    ? [flaw('member.takes-none', 'Say what of the others it speaks with, or all.', 'takes')]
    : [];
}

/** Where others are to find it: not inside the tunnels themselves. */
function checkFound({ found }: Member, spans: readonly string[], ports: readonly string[]): Flaw[] {
  for (const [port, text] of Object.entries(found)) {
    const ip = parseIp(text);
    if (!ports.includes(port)) return [flaw('member.port', `${port} cannot be an uplink.`, 'found')];
    if (!ip) return [flaw('member.address', `“${text}” is no address, at which others find ${port}.`, 'found')];
    if (spans.some((span) => contains(parsePrefix(span)!, ip)))
      return [
        flaw('member.inside', `${text} is found through the tunnels themselves: no tunnel goes through one.`, 'found'),
      ];
  }
  return [];
}

/** Two sites that have the same address could not both be found. */
function checkOverlaps(
  { joins = {} }: EstatePart,
  { id }: Member,
  carries: readonly string[],
  spans: readonly string[],
): Flaw[] {
  for (const text of carries)
    if (!isIn(text, spans))
      return [
        flaw('member.outside', `${text} is not where your sites’ networks are: ${spans.join(', ')}.`, 'segments'),
      ];
  const own = joinSpans(carries);
  for (const [other, join] of Object.entries(joins)) {
    if (other === id) continue;
    const met = meeting(own, spansOfJoin(join));
    if (!met) continue;
    const [mine, text] = met;
    const what = mine === text ? text : `${mine} is in part ${text}, which`;
    return [
      flaw(
        'member.overlap',
        `${what} is shared by ${join.name} already: others could not tell the two apart.`,
        'segments',
      ),
    ];
  }
  return [];
}

function normalised({ prefixes, takes, found, segments, ...member }: Member): Member {
  const prefix = (text: string): string => {
    const read = parsePrefix(text.trim());
    return read ? formatPrefix(read) : text.trim();
  };
  const address = (text: string): string => {
    const read = parseIp(text.trim());
    return read ? formatIp(read) : text.trim();
  };
  return {
    ...member,
    segments: segments === 'all' ? segments : [...new Set(segments)].sort(),
    prefixes: [...new Set(prefixes.map(prefix))].sort(),
    takes: takes && [...new Set(takes.map(prefix))].sort(),
    found: Object.fromEntries(Object.entries(found).map(([port, text]) => [port, address(text)])),
  };
}
