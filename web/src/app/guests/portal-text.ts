import { lastsWords, readLasts, type SecretRef } from '@iron-lattice/core/base';
import {
  ASK_FIELDS,
  kindWords,
  NO_SPONSORS,
  readKind,
  type AccountIssuer,
  type AskField,
  type GuestWay,
  type Language,
  type PageWords,
  type Picture,
  type SponsorGroup,
  type Sponsors,
  type UserChecks,
} from '@iron-lattice/core/guests';
import { capFlaw, capsOf, capsText, NO_CAPS, type CapsField, type CapsText } from '../shell/caps-text';
import { NEW_PORTAL, type Portal, type PortalFields } from '@iron-lattice/core/intent';

/** A portal as it is typed. */
export interface PortalText {
  readonly name: string;
  readonly ways: readonly GuestWay[];
  /** A length of time such as `8 h` or `90 min`. */
  readonly visit: string;
  readonly dataADay: string;
  readonly minutesADay: string;
  /** Lengths of time; empty: none. */
  readonly rest: string;
  readonly idle: string;
  readonly known: string;
  /** Kilobits a second; empty: held back. */
  readonly slow: string;
  /** In Mb/s; empty: any. */
  readonly down: string;
  readonly up: string;
  /** Id of the hours; null: always. */
  readonly hours: string | null;
  /** Whether an answer of a RADIUS server may name it. */
  readonly named: boolean;
  readonly landing: string;
  /** Lines. */
  readonly garden: string;
  /** Names, a line each; null: the small window of phones opens. */
  readonly quiet: string | null;
  readonly newsLink: string;
  readonly languages: readonly Language[];
  readonly words: Readonly<Partial<Record<Language, PageWords>>>;
  readonly agree: boolean;
  readonly ground: string;
  readonly accent: string;
  readonly purpose: string;
  readonly logo: Picture | null;
  readonly backdrop: Picture | null;
  /** Of each thing that guests may be asked for: not, and may be left empty, or not. */
  readonly asks: Readonly<Record<AskField, Asked>>;
  /** Lines such as `Day guest: 1 d, 2 devices`. */
  readonly kinds: string;
  readonly users: UserChecks;
  readonly first: string;
  /** Whose accounts guests sign in with; the secret as it is typed, empty where it stays. */
  readonly accountName: string;
  readonly issuer: string;
  readonly client: string;
  readonly accountSecret: string;
  readonly accountDomains: string;
  /** The secret that is kept. */
  readonly keptSecret: SecretRef | null;
  /** Lines each; a group is `Harbour office: rin@skerrow.example, mel@skerrow.example`. */
  readonly domains: string;
  readonly people: string;
  readonly groups: string;
  readonly told: string;
  readonly within: string;
}

export type Asked = 'not' | 'may' | 'must';

export const NO_WORDS: PageWords = { title: '', text: '', terms: '', news: '' };

const linesOf = (text: string, parted = /[\n,;]+/): string[] =>
  text
    .split(parted)
    .map((line) => line.trim())
    .filter((line) => line !== '');

const groupWords = ({ name, people }: SponsorGroup): string => `${name}: ${people.join(', ')}`;

/** Reads groups; what stands in a line without a colon is one without people. */
const groupsOf = (text: string): SponsorGroup[] =>
  linesOf(text, /\n+/).map((line) => {
    const at = line.indexOf(':');
    return at < 0
      ? { name: line, people: [] }
      : { name: line.slice(0, at).trim(), people: linesOf(line.slice(at + 1)) };
  });

const written = (value: number | null | undefined): string => (value === null || value === undefined ? '' : `${value}`);

export function textOf(portal: Portal | null): PortalText {
  const { ways, visit, dataADay, minutesADay, landing, garden, newsLink, languages, words, agree, ground, accent } =
    portal ?? (NEW_PORTAL as Portal);
  const { domains, people, groups, told, within } = portal?.sponsors ?? NO_SPONSORS;
  const { account = null } = portal ?? {};
  const rate = capsText({ client: portal?.rate ?? null });
  const asks = ASK_FIELDS.map((field) => [field, portal?.asks?.[field] ?? 'not'] as const);
  return {
    ...{ name: portal?.name ?? '', ways, visit: lastsWords(visit) },
    ...{ dataADay: written(dataADay), minutesADay: minutesADay ? lastsWords(minutesADay) : '' },
    ...{ rest: portal?.rest ? lastsWords(portal.rest) : '', idle: portal?.idle ? lastsWords(portal.idle) : '' },
    ...{ known: portal?.known ? lastsWords(portal.known) : '', slow: written(portal?.slow) },
    ...{ down: rate.clientDown, up: rate.clientUp, hours: portal?.hours ?? null },
    ...{ named: portal?.named ?? false, quiet: portal?.quiet?.join('\n') ?? null },
    ...{ landing: landing ?? '', garden: garden.join('\n'), newsLink: newsLink ?? '' },
    ...{ languages, words, agree: agree ?? false, ground, accent, purpose: portal?.purpose ?? '' },
    ...{ users: portal?.users ?? 'kept', kinds: (portal?.kinds ?? []).map(kindWords).join('\n') },
    ...{ logo: portal?.logo ?? null, backdrop: portal?.backdrop ?? null },
    ...{ accountName: account?.name ?? '', issuer: account?.issuer ?? '', client: account?.client ?? '' },
    ...{ accountSecret: '', accountDomains: account?.domains.join('\n') ?? '', keptSecret: account?.secret ?? null },
    ...{ asks: Object.fromEntries(asks) as PortalText['asks'], first: portal?.first ? lastsWords(portal.first) : '' },
    ...{ domains: domains.join('\n'), people: people.join('\n'), groups: groups.map(groupWords).join('\n') },
    ...{ told: told.join('\n'), within: lastsWords(within) },
  };
}

/** What was typed, as the fields that are kept. */
export function fieldsOf(text: PortalText): PortalFields {
  const optional = (typed: string, read: (typed: string) => number): number | null =>
    typed.trim() === '' ? null : read(typed);
  return {
    ...{ name: text.name.trim(), ways: text.ways, visit: readLasts(text.visit) },
    ...{ dataADay: optional(text.dataADay, Number), minutesADay: optional(text.minutesADay, readLasts) },
    ...{ rest: optional(text.rest, readLasts), idle: optional(text.idle, readLasts), hours: text.hours },
    ...{ known: optional(text.known, readLasts), slow: optional(text.slow, Number) },
    rate: capsOf(rateText(text))?.client ?? null,
    ...{ named: text.named || null, quiet: text.quiet === null ? null : linesOf(text.quiet) },
    ...{ landing: text.landing.trim() || null, newsLink: text.newsLink.trim() || null },
    garden: linesOf(text.garden),
    ...{ languages: text.languages, words: text.words, agree: text.agree || null },
    ...{ ground: text.ground.trim().toLowerCase(), accent: text.accent.trim().toLowerCase() },
    purpose: text.purpose.trim() || null,
    ...{ users: text.users === 'kept' ? null : text.users, kinds: kindsOf(text) },
    ...{ logo: text.logo, backdrop: text.backdrop },
    ...{ asks: asksOf(text), first: optional(text.first, readLasts), sponsors: sponsorsOf(text) },
    account: accountOf(text),
  };
}

/** What guests are asked for; null where it is nothing. */
function asksOf({ asks }: PortalText): Portal['asks'] {
  const asked = ASK_FIELDS.flatMap((field) => (asks[field] === 'not' ? [] : [[field, asks[field]] as const]));
  return asked.length === 0 ? null : Object.fromEntries(asked);
}

/** Whose accounts guests sign in with; null where nothing is said of it. */
function accountOf(text: PortalText): AccountIssuer | null {
  const { accountName: name, issuer, client, accountDomains, accountSecret, keptSecret: secret } = text;
  const said = [name, issuer, client, accountDomains, accountSecret].some((each) => each.trim() !== '');
  const plain = { name: name.trim(), issuer: issuer.trim().replace(/\/+$/, ''), client: client.trim(), secret };
  return said || secret ? { ...plain, domains: linesOf(accountDomains) } : null;
}

/** Who may say yes; null where nobody was ever said. */
function sponsorsOf(text: PortalText): Sponsors | null {
  const sponsors: Sponsors = {
    ...{ domains: linesOf(text.domains), people: linesOf(text.people), groups: groupsOf(text.groups) },
    ...{ told: linesOf(text.told), within: readLasts(text.within) },
  };
  const none = JSON.stringify(sponsors) === JSON.stringify(NO_SPONSORS);
  return none ? null : sponsors;
}

/** What each guest may take at once, as caps are typed. */
const rateText = ({ down, up }: PortalText): CapsText => ({ ...NO_CAPS, clientDown: down, clientUp: up });

/** Kinds of codes that can be read; null where none is said. */
function kindsOf({ kinds }: PortalText): Portal['kinds'] {
  const read = linesOf(kinds, /\n+/).flatMap((line) => readKind(line) ?? []);
  return read.length > 0 ? read : null;
}

/** What of it cannot be read yet, by field. */
export function unreadable(text: PortalText): Partial<Record<keyof PortalText, string>> {
  const time = 'Write 90 min, 8 h or 2 d.';
  const unkind = linesOf(text.kinds, /\n+/).find((line) => readKind(line) === null);
  const rateFlaw = (field: CapsField): string => capFlaw(rateText(text), field);
  const wrong = (typed: string): boolean => typed.trim() !== '' && Number.isNaN(readLasts(typed));
  return {
    ...(Number.isNaN(readLasts(text.visit)) ? { visit: time } : {}),
    ...(wrong(text.minutesADay) ? { minutesADay: time } : {}),
    ...(unkind === undefined ? {} : { kinds: `“${unkind.slice(0, 60)}”: write Day guest: 1 d, 2 devices.` }),
    ...(wrong(text.first) ? { first: time } : {}),
    ...(wrong(text.rest) ? { rest: time } : {}),
    ...(wrong(text.idle) ? { idle: time } : {}),
    ...(wrong(text.known) ? { known: time } : {}),
    ...(text.slow.trim() !== '' && !/^\d+$/.test(text.slow.trim()) ? { slow: 'Whole kb/s.' } : {}),
    ...(rateFlaw('clientDown') ? { down: rateFlaw('clientDown') } : {}),
    ...(rateFlaw('clientUp') ? { up: rateFlaw('clientUp') } : {}),
    ...(Number.isNaN(readLasts(text.within)) ? { within: time } : {}),
    ...(text.dataADay.trim() !== '' && !/^\d+$/.test(text.dataADay.trim()) ? { dataADay: 'Whole megabytes.' } : {}),
  };
}
