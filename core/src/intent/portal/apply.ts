import { flaw } from '../../base';
import { LANGUAGES, type AccountIssuer, type PageWords, type Sponsors } from '../../guests';
import { plainCaps } from '../../traffic';
import { byName, editsOfList } from '../kept-list';
import { checkPortal } from './check';
import { leadingPorts } from './leads';
import type { PortalOperation } from './operations';
import type { Portal } from './portal';

/** Applies an edit of a portal, which sites share; they stay ordered by name, and as long as an SSID has them. */
export const applyPortal = editsOfList<PortalOperation, Portal, 'estate'>({
  noun: 'portal',
  where: 'estate',
  list: 'portals',
  order: byName,
  normal: normalised,
  purposed: true,
  check: (_intent, estate, portal) => checkPortal(portal, estate),
  stays: ({ sites }, { ssids }, { id, name }) => {
    const user = ssids.find(({ portal }) => portal === id)?.name;
    if (user !== undefined)
      return flaw('portal.used', `“${name}” holds the guests of “${user}”. Take it out there first.`);
    for (const site of sites.values()) {
      const duty = site.duties?.find(({ portal }) => portal === id);
      const port = leadingPorts(site).get(id)?.[0]?.port;
      if (duty ?? port)
        return flaw(
          'portal.used',
          `“${name}” holds guests at ${duty ? `the duty “${duty.name}”` : `port ${port}`} of ${site.name}. Take it out there first.`,
        );
    }
    return null;
  },
});

function normalised({ words, ...portal }: Portal): Portal {
  const said = LANGUAGES.flatMap((language) => {
    const one = words[language];
    if (!one) return [];
    const plain: PageWords = {
      ...{ title: one.title.trim(), text: one.text.trim() },
      ...{ terms: one.terms.trim(), news: one.news.trim() },
    };
    return Object.values(plain).every((text) => text === '') ? [] : [[language, plain] as const];
  });
  const { sponsors } = portal;
  return {
    ...portal,
    name: portal.name.trim(),
    garden: linesOf(portal.garden, (line) => line.toLowerCase()),
    ...(portal.quiet ? { quiet: linesOf(portal.quiet, (line) => line.toLowerCase()) } : {}),
    ...(sponsors ? { sponsors: sponsorsOf(sponsors) } : {}),
    ...(portal.kinds === undefined
      ? {}
      : { kinds: portal.kinds?.length ? portal.kinds.map((kind) => ({ ...kind, name: kind.name.trim() })) : null }),
    ...(portal.rate === undefined ? {} : { rate: plainCaps({ client: portal.rate })?.client ?? null }),
    ...(portal.account ? { account: accountOf(portal.account) } : {}),
    ...(portal.landing === undefined ? {} : { landing: portal.landing?.trim() || null }),
    ...(portal.newsLink === undefined ? {} : { newsLink: portal.newsLink?.trim() || null }),
    ground: portal.ground.trim().toLowerCase(),
    accent: portal.accent.trim().toLowerCase(),
    words: Object.fromEntries(said),
  };
}

/** Lines without blanks and empty ones, each once. */
const linesOf = (lines: readonly string[], plain: (line: string) => string = (line) => line): string[] => [
  ...new Set(lines.map((line) => plain(line.trim())).filter((line) => line !== '')),
];

const accountOf = ({ name, issuer, client, secret, domains }: AccountIssuer): AccountIssuer => ({
  ...{ name: name.trim(), issuer: issuer.trim().replace(/\/+$/, ''), client: client.trim(), secret },
  domains: linesOf(domains, (line) => line.toLowerCase().replace(/^@/, '')),
});

const sponsorsOf = ({ domains, people, groups, told, within }: Sponsors): Sponsors => ({
  domains: linesOf(domains, (line) => line.toLowerCase().replace(/^@/, '')),
  people: linesOf(people),
  groups: groups.map((group) => ({ name: group.name.trim(), people: linesOf(group.people) })),
  told: linesOf(told),
  within,
});
