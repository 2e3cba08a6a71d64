import type { RuleEnd } from '../../rules';

/** Something inside that people outside reach: at ports of a gateway’s uplinks, by translating whereto (RFC 2663 §4.1.2). */
export interface Publication {
  readonly id: string;
  readonly deviceId: string;
  readonly name: string;
  /** Ports of the uplinks that it is reached at; none: all of them. */
  readonly ports: readonly string[];
  readonly protocol: 'tcp' | 'udp' | 'both';
  /** A port that people outside ask for, or a range of them, such as 8000-8010. */
  readonly outside: string;
  /** Whom it leads to, an IPv4 address of a segment; and the first of its ports, where those are others. */
  readonly address: string;
  readonly inside?: number | null;
  /** Who may, outside: the internet, addresses, sets. */
  readonly from: readonly RuleEnd[];
  /** Hours of the estate, by id; none: always. */
  readonly hours?: string | null;
  /** Whether people inside reach it under the address of outside as well. */
  readonly within?: boolean | null;
  readonly log?: boolean | null;
  /** Kept, and not in force. */
  readonly off?: boolean | null;
}

/** Published ports of one gateway; uplinks that one names; ports of one that lead to others inside; characters of a name. */
export const [MOST_PUBLICATIONS, MOST_PUBLISHED_AT, MOST_MOVED_PORTS, MOST_PUBLICATION_NAME] = [200, 16, 256, 60];

/** What it stands for in a site’s policy. */
export const publishedRuleId = (id: string): string => `published ${id}`;

/** What a gateway publishes, by name. */
export const publicationsOf = (
  { publications = [] }: { readonly publications?: readonly Publication[] },
  deviceId: string,
): Publication[] => publications.filter((each) => each.deviceId === deviceId).sort(byName);

const byName = (a: Publication, b: Publication): number => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0);

/** The protocols that one is about, by the names that services have. */
export const protocolsOf = ({ protocol }: Pick<Publication, 'protocol'>): readonly ('tcp' | 'udp')[] =>
  protocol === 'both' ? ['tcp', 'udp'] : [protocol];
