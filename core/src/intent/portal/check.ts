import { flaw, isMailAddress, type Flaw } from '../../base';
import {
  isColour,
  LANGUAGE_NAMES,
  LEAST_FIRST,
  LEAST_WITHIN,
  MOST_DOMAINS,
  MOST_FIRST,
  MOST_GARDEN,
  MOST_GROUP_NAME,
  MOST_GROUP_PEOPLE,
  MOST_GROUPS,
  MOST_ISSUER,
  MOST_QUIET,
  MOST_CODE_DEVICES,
  MOST_KIND_NAME,
  MOST_KINDS,
  MOST_SPONSORS,
  MOST_TOLD,
  MOST_WITHIN,
  readGarden,
  readPage,
  type Language,
  type PageWords,
} from '../../guests';
import { capFlaws } from '../../traffic';
import type { EstatePart } from '../part';
import {
  LEAST_IDLE,
  LEAST_KNOWN,
  LEAST_REST,
  LEAST_SLOW,
  LEAST_VISIT,
  MOST_DATA,
  MOST_DAY_MINUTES,
  MOST_IDLE,
  MOST_KNOWN,
  MOST_PORTALS,
  MOST_REST,
  MOST_SLOW,
  MOST_VISIT,
  MOST_WORDS,
  type Portal,
} from './portal';

/** What is wrong with a portal. */
export function checkPortal(
  portal: Portal,
  { portals = [], hours = [] }: Pick<EstatePart, 'portals' | 'hours'>,
): Flaw[] {
  const { id, name, ways, languages, garden } = portal;
  const flaws: Flaw[] = [];
  if (name === '') flaws.push(flaw('portal.name-empty', 'Give the portal a name.', 'name'));
  else if (name.length > 60) flaws.push(flaw('portal.name-long', 'A portal has 60 characters at most.', 'name'));
  const others = portals.filter((each) => each.id !== id);
  if (others.some((each) => each.name.toLowerCase() === name.toLowerCase()))
    flaws.push(flaw('portal.name-taken', `There is already a portal “${name}”.`, 'name'));
  if (others.length >= MOST_PORTALS) flaws.push(flaw('portal.many', `An estate has ${MOST_PORTALS} portals at most.`));
  if (ways.length === 0) flaws.push(flaw('portal.ways-none', 'Choose a way in at least.', 'ways'));
  if (languages.length === 0) flaws.push(flaw('portal.languages-none', 'Choose a language at least.', 'languages'));
  if (portal.hours && !hours.some((each) => each.id === portal.hours))
    flaws.push(flaw('portal.hours-unknown', 'These hours are no longer there. Choose others, or always.', 'hours'));
  flaws.push(
    ...kindFlaws(portal),
    ...limitFlaws(portal),
    ...wordFlaws(portal),
    ...sponsorFlaws(portal),
    ...accountFlaws(portal),
  );
  if (garden.length > MOST_GARDEN)
    flaws.push(flaw('portal.garden-many', `${MOST_GARDEN} lines at most; these are ${garden.length}.`, 'garden'));
  const odd = garden.find((line) => readGarden(line) === null);
  if (odd !== undefined) {
    const message = `“${odd.slice(0, 80)}” is neither a name nor an address: write ferries.example, *.ferries.example, 203.0.113.7 or 203.0.113.0/24.`;
    flaws.push(flaw('portal.garden', message, 'garden'));
  }
  const { quiet } = portal;
  const noName = quiet?.find((line) => readGarden(line)?.kind !== 'name');
  if (noName !== undefined)
    flaws.push(flaw('portal.quiet', `“${noName.slice(0, 80)}” is no name, such as online.skerrow.example.`, 'quiet'));
  else if (quiet && (quiet.length === 0 || quiet.length > MOST_QUIET))
    flaws.push(flaw('portal.quiet', `Write the names that phones look at, ${MOST_QUIET} at most.`, 'quiet'));
  for (const field of ['landing', 'newsLink'] as const)
    if (portal[field] && !readPage(portal[field]))
      flaws.push(flaw(`portal.${field}`, 'Write a whole address, such as https://ferries.example/harbour.', field));
  for (const field of ['ground', 'accent'] as const)
    if (!isColour(portal[field])) flaws.push(flaw(`portal.${field}`, 'Write a colour like #8c2f1b.', field));
  return flaws;
}

function accountFlaws({ account }: Portal): Flaw[] {
  if (!account) return [];
  const { name, issuer, client, domains } = account;
  const flaws: Flaw[] = [];
  const say = (field: string, message: string): void =>
    void flaws.push(flaw(`portal.account-${field}`, message, `account.${field}`));
  const page = issuer.length <= MOST_ISSUER.issuer ? readPage(issuer) : null;
  const isNear = page?.host === '127.0.0.1' || page?.host === '::1' || page?.host === 'localhost';
  if (name === '' || name.length > MOST_ISSUER.name) say('name', 'Say what guests call it, in 40 characters at most.');
  if (!page || /[?#]/.test(issuer)) say('issuer', 'Write its issuer, such as https://accounts.skerrow.example.');
  else if (!page.secure && !isNear) say('issuer', 'Passwords are typed there: its address has to begin with https.');
  if (client === '' || client.length > MOST_ISSUER.client)
    say('client', 'Write the client id that it gave this controller, in 200 characters at most.');
  const odd = domains.find((each) => each.length > 253 || !DOMAIN.test(each));
  if (odd !== undefined)
    say('domains', `“${odd.slice(0, 80)}” is no mail domain: write skerrow.example or *.skerrow.example.`);
  else if (domains.length > MOST_DOMAINS) say('domains', `${MOST_DOMAINS} at most; these are ${domains.length}.`);
  return flaws;
}

function kindFlaws({ kinds }: Portal): Flaw[] {
  const flaws: Flaw[] = [];
  const say = (message: string): void => void flaws.push(flaw('portal.kinds', message, 'kinds'));
  const all = kinds ?? [];
  const names = all.map(({ name }) => name.toLowerCase());
  const odd = all.find(({ minutes }) => !Number.isInteger(minutes) || minutes < LEAST_VISIT || minutes > MOST_VISIT);
  const many = all.find(
    ({ most }) => most !== null && (!Number.isInteger(most) || most < 1 || most > MOST_CODE_DEVICES),
  );
  if (all.length > MOST_KINDS) say(`${MOST_KINDS} kinds at most; these are ${all.length}.`);
  else if (names.some((name) => name === '' || name.length > MOST_KIND_NAME))
    say(`A kind has a name of ${MOST_KIND_NAME} characters at most: Day guest: 1 d, 2 devices.`);
  else if (new Set(names).size < names.length) say('Two kinds have one name: people choose by it.');
  else if (odd) say(`${odd.name}: from five minutes to 31 days.`);
  else if (many) say(`${many.name}: from 1 to ${MOST_CODE_DEVICES} devices, or any.`);
  return flaws;
}

function limitFlaws({ visit, dataADay, minutesADay, first, idle, rest, known, slow, rate }: Portal): Flaw[] {
  const whole = (value: number | null | undefined, least: number, most: number): boolean =>
    value === null || value === undefined || (Number.isInteger(value) && value >= least && value <= most);
  const flaws: Flaw[] = [];
  if (!whole(visit, LEAST_VISIT, MOST_VISIT))
    flaws.push(flaw('portal.visit', `Whole minutes, from ${LEAST_VISIT} to 44,640 (31 days).`, 'visit'));
  if (!whole(dataADay, 1, MOST_DATA))
    flaws.push(flaw('portal.data', 'Whole megabytes a day, from 1 to 1,000,000; empty: any.', 'dataADay'));
  if (!whole(minutesADay, 1, MOST_DAY_MINUTES))
    flaws.push(flaw('portal.minutes', 'Whole minutes a day, from 1 to 1,440; empty: any.', 'minutesADay'));
  if (!whole(idle, LEAST_IDLE, MOST_IDLE))
    flaws.push(flaw('portal.idle', `Whole minutes, from ${LEAST_IDLE} to 1,440 (a day); empty: it goes on.`, 'idle'));
  if (!whole(rest, LEAST_REST, MOST_REST))
    flaws.push(flaw('portal.rest', `Whole minutes, from ${LEAST_REST} to 44,640 (31 days); empty: at once.`, 'rest'));
  if (!whole(known, LEAST_KNOWN, MOST_KNOWN))
    flaws.push(flaw('portal.known', 'From an hour to a year, such as 30 d; empty: asked each time.', 'known'));
  if (!whole(slow, LEAST_SLOW, MOST_SLOW))
    flaws.push(flaw('portal.slow', `Whole kb/s, from ${LEAST_SLOW} to 100,000; empty: held back.`, 'slow'));
  else if (slow && !dataADay) flaws.push(flaw('portal.slow-none', 'Say how many megabytes a day come before.', 'slow'));
  for (const { code, message, field = '' } of capFlaws({ client: rate ?? null }, 'leave it empty for any'))
    flaws.push(flaw(code, message, field.replace('caps.client', 'rate')));
  if (!whole(first, LEAST_FIRST, Math.min(MOST_FIRST, visit)))
    flaws.push(
      flaw(
        'portal.first',
        `Whole minutes, from ${LEAST_FIRST} to ${MOST_FIRST} and no more than a visit; empty: the code first.`,
        'first',
      ),
    );
  return flaws;
}

const DOMAIN = /^(\*\.)?([a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/i;

function sponsorFlaws({ sponsors }: Portal): Flaw[] {
  if (!sponsors) return [];
  const { domains, people, groups, told, within } = sponsors;
  const flaws: Flaw[] = [];
  const say = (field: string, message: string): void =>
    void flaws.push(flaw(`portal.sponsors-${field}`, message, `sponsors.${field}`));
  const addresses = (field: string, list: readonly string[], most: number, whose = ''): void => {
    const odd = list.find((each) => !isMailAddress(each));
    if (odd !== undefined) say(field, `${whose}“${odd.slice(0, 80)}” is no mail address, such as rin@skerrow.example.`);
    else if (list.length > most) say(field, `${whose}${most} addresses at most; these are ${list.length}.`);
  };
  const odd = domains.find((each) => each.length > 253 || !DOMAIN.test(each));
  if (odd !== undefined)
    say('domains', `“${odd.slice(0, 80)}” is no mail domain: write skerrow.example or *.skerrow.example.`);
  else if (domains.length > MOST_DOMAINS) say('domains', `${MOST_DOMAINS} at most; these are ${domains.length}.`);
  addresses('people', people, MOST_SPONSORS);
  addresses('told', told, MOST_TOLD);
  const names = groups.map(({ name }) => name.toLowerCase());
  if (groups.length > MOST_GROUPS) say('groups', `${MOST_GROUPS} groups at most; these are ${groups.length}.`);
  else if (groups.some(({ name }) => name === '' || name.length > MOST_GROUP_NAME))
    say('groups', `A group has a name of ${MOST_GROUP_NAME} characters at most: Harbour office: rin@skerrow.example.`);
  else if (new Set(names).size < names.length) say('groups', 'Two groups have one name: guests choose by it.');
  else
    for (const group of groups)
      if (group.people.length === 0) say('groups', `Nobody is in “${group.name}” yet.`);
      else addresses('groups', group.people, MOST_GROUP_PEOPLE, `${group.name}: `);
  if (!Number.isInteger(within) || within < LEAST_WITHIN || within > MOST_WITHIN)
    say('within', `Whole minutes, from ${LEAST_WITHIN} to 1,440 (a day).`);
  return flaws;
}

function wordFlaws({ words, agree, languages }: Portal): Flaw[] {
  const flaws: Flaw[] = [];
  for (const [language, said] of Object.entries(words) as [Language, PageWords][])
    for (const field of Object.keys(MOST_WORDS) as (keyof PageWords)[])
      if (said[field].length > MOST_WORDS[field]) {
        const message = `${MOST_WORDS[field]} characters at most in ${LANGUAGE_NAMES[language]}; these are ${said[field].length}.`;
        flaws.push(flaw(`portal.${field}-long`, message, `words.${language}.${field}`));
      }
  const [first] = languages;
  if (agree && first && !words[first]?.terms)
    flaws.push(
      flaw(
        'portal.terms-none',
        `Write the terms in ${LANGUAGE_NAMES[first]}, which stands in for all others.`,
        'agree',
      ),
    );
  return flaws;
}
