import type { JoinableSite } from '@iron-lattice/core/assess';
import type { Member } from '@iron-lattice/core/intent';

/** A joined site as it is typed. */
export interface MemberText {
  readonly siteId: string;
  readonly deviceId: string;
  readonly role: Member['role'];
  readonly hubs: readonly string[];
  readonly direct: readonly string[];
  /** Whether all segments are shared that are not kept apart. */
  readonly all: boolean;
  readonly segments: readonly string[];
  readonly prefixes: string;
  readonly takes: string;
  readonly leaves: Member['leaves'];
  readonly found: Readonly<Record<string, string>>;
}

export const memberTextOf = (member: Member): MemberText => ({
  siteId: member.siteId,
  deviceId: member.deviceId,
  role: member.role,
  hubs: member.hubs,
  direct: member.direct,
  all: member.segments === 'all',
  segments: member.segments === 'all' ? [] : member.segments,
  prefixes: member.prefixes.join(', '),
  takes: (member.takes ?? []).join(', '),
  leaves: member.leaves,
  found: member.found,
});

/** One that is to be joined: the first is a hub, the others are spokes of those that there are. */
export const newMember = (site: JoinableSite | undefined, hubs: readonly string[]): MemberText => ({
  ...{ siteId: site?.id ?? '', deviceId: site?.gateways[0]?.id ?? '', role: hubs.length === 0 ? 'hub' : 'spoke' },
  ...{ hubs, direct: [], all: true, segments: [], prefixes: '', takes: '', leaves: 'here', found: {} },
});

/** Texts that are typed one behind the other, parted by commas or blanks. */
export const listTyped = (text: string): string[] => text.split(/[\s,;]+/).filter((each) => each !== '');

/** What is typed, as fields. */
export const memberTyped = (text: MemberText): Omit<Member, 'id' | 'key'> => ({
  siteId: text.siteId,
  deviceId: text.deviceId,
  role: text.role,
  hubs: text.role === 'hub' ? [] : text.hubs,
  direct: text.role === 'hub' ? [] : text.direct,
  segments: text.all ? 'all' : text.segments,
  prefixes: listTyped(text.prefixes),
  takes: listTyped(text.takes).length > 0 ? listTyped(text.takes) : null,
  leaves: text.role === 'hub' ? 'here' : text.leaves,
  found: Object.fromEntries(Object.entries(text.found).filter(([, address]) => address.trim() !== '')),
});
