/** Somebody of the house whom guests choose by a name; whoever of them answers first decides. */
export interface SponsorGroup {
  readonly name: string;
  /** Mail addresses. */
  readonly people: readonly string[];
}

/** Who may say yes to a guest. */
export interface Sponsors {
  /** What stands behind the at sign: `skerrow.example`, or `*.skerrow.example` for all below it. */
  readonly domains: readonly string[];
  /** Single mail addresses. */
  readonly people: readonly string[];
  readonly groups: readonly SponsorGroup[];
  /** Mail addresses that hear of everybody who was let in. */
  readonly told: readonly string[];
  /** Minutes that an answer is waited for. */
  readonly within: number;
}

/** Domains, people of a list, and groups at most; characters of a group’s name. */
export const [MOST_DOMAINS, MOST_SPONSORS, MOST_GROUPS, MOST_GROUP_PEOPLE, MOST_GROUP_NAME] = [50, 500, 30, 20, 60];
/** Who hears of everybody at most. */
export const MOST_TOLD = 10;
/** Minutes that an answer is waited for, at least and at most. */
export const [LEAST_WITHIN, MOST_WITHIN] = [5, 1440];

/** Nobody yet. */
export const NO_SPONSORS: Sponsors = { domains: [], people: [], groups: [], told: [], within: 60 };

/** Whether nobody may say yes. */
export const isNobody = ({ domains, people, groups }: Sponsors): boolean =>
  domains.length === 0 && people.length === 0 && groups.every((group) => group.people.length === 0);

/** Whether guests may write whom they visit, and not only choose a group. */
export const mayWrite = ({ domains, people }: Sponsors): boolean => domains.length > 0 || people.length > 0;

/**
 * Whether somebody at a mail address may say yes. Domains are compared without regard to case (RFC 5321 §2.4); what stands before the at
 * sign is too, as nobody tells two people apart by it.
 */
export function maySponsor({ domains, people, groups }: Sponsors, address: string): boolean {
  const asked = address.toLowerCase();
  const listed = [...people, ...groups.flatMap((group) => group.people)];
  if (listed.some((each) => each.toLowerCase() === asked)) return true;
  return isOfDomains(asked, domains);
}

/** Whether a mail address is of one of some domains; `*.` stands for whatever is before. */
export function isOfDomains(address: string, domains: readonly string[]): boolean {
  const domain = address.slice(address.lastIndexOf('@') + 1).toLowerCase();
  return domains.some((each) => {
    const name = each.toLowerCase();
    return name.startsWith('*.') ? domain.endsWith(name.slice(1)) : domain === name;
  });
}
