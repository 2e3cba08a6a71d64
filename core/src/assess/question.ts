import type { ResolvedSite, RosterDevice } from '../intent';
import { saidElsewhere } from './elsewhere';
import { readAddresses, readEnds, saidServices, type EndNames } from '../rules';

/** The parts of a question; services as they would be typed in a rule. */
export interface Question {
  readonly from: string;
  readonly to: string;
  readonly services: string;
}

/** Words before a question that say nothing of what is asked. */
const BEFORE = /^(?:can|may|does|do|could|will|is|are|should)\s+/i;
/** What stands between two ends; people who *ping* mean that service. */
const BETWEEN =
  /\s*(?:→|->|=>)\s*|\s+(?:(?:allowed|able)\s+to\s+)?(?:reach(?:es)?|pings?|access(?:es)?|uses?|opens?|sees?|gets?\s+(?:in)?to|talks?\s+to|speaks?\s+to|connects?\s+to|goe?s?\s+to|to)\s+/gi;
/** What stands before a service. */
const ON = /^(?:on|by|with|via|over|using|for|at)\s+/i;
const ARTICLE = /^(?:the|an?|our)\s+/i;
/** Longest question that is looked at; nobody asks a longer one. */
const MOST = 300;
/** How sure an end is that is a name we know or an address. */
const KNOWN = 3;
/** A name of the DNS: labels of letters, digits and hyphens, at least two of them (RFC 1123 §2.1). */
const HOST_NAME = /^(?=.{1,253}$)(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z](?:[a-z0-9-]{0,61}[a-z0-9])?\.?$/i;

/** Names that an end may be typed as at a site. */
export const endNamesAt = (site: ResolvedSite, roster: readonly RosterDevice[]): Required<EndNames> => ({
  segment: site.segments.map(({ name }) => name),
  ssid: site.ssids.map(({ name }) => name),
  class: site.accessClasses.map(({ name }) => name),
  set: [...(site.estate.sets ?? []), ...(site.sets ?? [])].map(({ name }) => name),
  device: roster.map(({ name }) => name),
});

/** Names of the DNS among the ends of a text: what is neither known nor an address, and looks like one. */
export const hostNamesIn = (text: string, known: EndNames): readonly string[] =>
  readEnds(text, known).flatMap((end) =>
    end.kind === 'addresses' && readAddresses(end.text) === null && HOST_NAME.test(end.text) ? [end.text] : [],
  );

/**
 * Parts a question as people write it: “Can Crew reach 10.20.1.7 on TCP 443?”, “may passengers ping the gateway”,
 * “crew to ticketing 9100”, “passengers → 10.12.1.1 ssh”. Where several readings are possible, the one whose ends are known
 * is meant: names may hold any of these words.
 * @param sites names of sites: an end may be said to be at one, such as “Ticketing at Ansel Quay”.
 * @returns null when it has not both ends.
 */
export function partQuestion(text: string, known: EndNames = {}, sites: readonly string[] = []): Question | null {
  const whole = text
    .slice(0, MOST)
    .trim()
    .replace(/[?.!\s]+$/, '');
  const starts = BEFORE.test(whole) ? [whole.replace(BEFORE, ''), whole] : [whole];
  const readings = starts.flatMap((words) =>
    [...words.matchAll(BETWEEN)].flatMap((between) => {
      const left = words.slice(0, between.index).trim();
      const right = words.slice(between.index + between[0].length).trim();
      if (left === '' || right === '') return [];
      const ping = /ping/i.test(between[0]);
      return parted(right, ping, sites).map(({ to, services }) => ({ from: left, to, services }));
    }),
  );
  let best: { readonly question: Question; readonly known: number; readonly length: number } | null = null;
  for (const { services, ...ends } of readings)
    for (const from of withAndWithoutArticle(ends.from))
      for (const to of withAndWithoutArticle(ends.to)) {
        const sureFrom = certainty(from, known, sites);
        const sure = sureFrom + certainty(to, known, sites);
        // “May” and “the” may begin a name: of two names that are known, the one that leaves fewer words out is meant.
        const length = sureFrom === KNOWN ? from.length : 0;
        if (best === null || sure > best.known || (sure === best.known && length > best.length))
          best = { question: { from, to, services }, known: sure, length };
      }
  return best?.question ?? null;
}

/** Every way to read what stands behind the verb: an end alone, or an end and what is wanted there, the longest end first. */
function parted(
  right: string,
  ping: boolean,
  sites: readonly string[],
): { readonly to: string; readonly services: string }[] {
  const alone = { to: right, services: ping ? saidServices('ping')! : 'any' };
  const found: { to: string; services: string }[] = [];
  for (const gap of [...right.matchAll(/\s+/g)].reverse()) {
    const to = right.slice(0, gap.index);
    const rest = right.slice(gap.index + gap[0].length);
    // “at” stands before the name of a site as well.
    const place = /^at\s+(.*)$/i.exec(rest)?.[1]?.toLowerCase();
    if (place !== undefined && sites.some((name) => place.startsWith(name.toLowerCase()))) continue;
    const said = rest.replace(ON, '');
    const services = saidServices(said);
    if (services !== null) found.push({ to, services });
    // Said to be a service, and none that we know: it is told as it was typed.
    else if (said !== rest) found.push({ to, services: said });
  }
  // What can be read whole as a service is one; a name that ends like it is still found by being known.
  return [...found.slice(-1), ...found.slice(0, -1), alone];
}

function withAndWithoutArticle(end: string): readonly string[] {
  const bare = end.replace(ARTICLE, '');
  return bare === end ? [end] : [end, bare];
}

/** How sure it is that a text is an end: known by name, or an address or one of our words; then a name of the DNS. */
function certainty(text: string, known: EndNames, sites: readonly string[]): number {
  const places = sites.map((name) => ({ id: name, name }));
  // What the other site has is not known here: words that say nothing are not taken for a part of a name.
  if (saidElsewhere(text, places)) return BEFORE.test(text) || ARTICLE.test(text) ? 1 : KNOWN;
  const ends = readEnds(text, known);
  if (ends.length === 0) return 0;
  const sure = ends.map((end) => {
    if (end.kind !== 'addresses') return 'name' in end && !isKnown(end, known) ? 1 : KNOWN;
    if (readAddresses(end.text) !== null) return KNOWN;
    return HOST_NAME.test(end.text) ? 2 : 0;
  });
  return Math.min(...sure);
}

const isKnown = ({ kind, name }: { readonly kind: keyof EndNames; readonly name: string }, known: EndNames): boolean =>
  known[kind]?.some((each) => each.toLowerCase() === name.toLowerCase()) ?? false;
