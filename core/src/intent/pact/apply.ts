import {
  contains,
  formatIp,
  formatPrefix,
  isUnanswered,
  overlaps,
  parseIp,
  parsePrefix,
  type IpAddress,
  type Prefix,
} from '../../address';
import { flaw, type Flaw } from '../../base';
import { nameKind, type Offer } from '../../ike';
import { editsOfList } from '../kept-list';
import type { SitePart } from '../part';
import type { PactOperation } from './operations';
import { LEAST_LASTS, MOST_LASTS, MOST_PACTS, type Pact, type PactWord } from './pact';

/** Applies an edit of a tunnel to a gateway of others. */
export const applyPact = editsOfList<PactOperation, Pact, 'site'>({
  noun: 'pact',
  title: 'tunnel',
  where: 'site',
  list: 'pacts',
  purposed: true,
  normal: normalised,
  check: (_intent, site, pact) => check(site, pact),
});

function check(site: SitePart, pact: Pact): Flaw[] {
  const others = (site.pacts ?? []).filter(({ id }) => id !== pact.id);
  const flaws: Flaw[] = [];
  if (others.length >= MOST_PACTS) flaws.push(flaw('pact.many', `A site has ${MOST_PACTS} of them at most.`));
  if (pact.name === '') flaws.push(flaw('pact.name-empty', 'Give it a name.', 'name'));
  if (others.some(({ name }) => name.toLowerCase() === pact.name.toLowerCase()))
    flaws.push(flaw('pact.name-taken', `${site.name} has a tunnel “${pact.name}” already.`, 'name'));
  return [
    ...flaws,
    ...checkAt(pact, others),
    ...checkNames(pact, 'own', 'other', ''),
    ...checkOffer('ike', pact.ike),
    ...checkOffer('esp', pact.esp),
    ...checkLasts(pact),
    ...checkHere(site, pact),
    ...checkBehind(site, pact, others),
    ...(pact.says ? checkWord(pact.says) : []),
  ];
}

function checkAt({ at }: Pact, others: readonly Pact[]): Flaw[] {
  if (!at) return [];
  const ip = parseIp(at);
  if (!ip || isUnanswered(ip))
    return [flaw('pact.at', `“${at}” is no address that a gateway is found at, such as 203.0.113.60.`, 'at')];
  const twin = others.find((each) => each.at === at);
  if (twin) return [flaw('pact.at-taken', `“${twin.name}” leads to ${at} already.`, 'at')];
  const around = others.find(({ behind }) => holds(behind, ip));
  if (!around) return [];
  return [flaw('pact.within', `${at} is behind “${around.name}”: a tunnel inside a tunnel carries nothing.`, 'at')];
}

const holds = (prefixes: readonly string[], ip: IpAddress): boolean =>
  prefixes.some((text) => {
    const prefix = parsePrefix(text);
    return prefix !== null && contains(prefix, ip);
  });

function checkNames(
  named: Readonly<Record<'own' | 'other', string>>,
  ...[own, other, field]: readonly ['own', 'other', string]
): Flaw[] {
  const flaws = [own, other].flatMap((each) => {
    if (nameKind(named[each]) !== null) return [];
    const what = named[each] === '' ? 'Say what it names itself' : `“${named[each]}” is no name of a gateway`;
    return [flaw('pact.name', `${what}: a host’s name, an address, or a mail address.`, field || each)];
  });
  if (flaws.length === 0 && named[own].toLowerCase() === named[other].toLowerCase())
    flaws.push(flaw('pact.name-same', 'Both have the same name: neither would know the other by it.', field || other));
  return flaws;
}

function checkOffer(kind: 'ike' | 'esp', { ciphers, hashes, groups }: Offer, field: string = kind): Flaw[] {
  const flaws: Flaw[] = [];
  const no = (what: string): unknown => flaws.push(flaw('pact.offer', what, field));
  for (const list of [ciphers, hashes, groups])
    if (new Set<string>(list).size < list.length) no('Something is there twice.');
  if (ciphers.length === 0) no('Choose at least one cipher.');
  if (kind === 'ike' && hashes.length === 0) no('The exchange needs a hash: its keys are made by it.');
  if (kind === 'ike' && groups.length === 0) no('The exchange needs a group: its keys come from one.');
  if (kind === 'esp' && hashes.length === 0 && ciphers.some((each) => each.includes('cbc') || each === '3des'))
    no('AES-CBC and 3DES need a hash beside them.');
  return flaws;
}

function checkLasts({ lasts }: Pact): Flaw[] {
  if (!lasts) return [];
  const wrong = [lasts.ike, lasts.esp].some(
    (each) => !Number.isInteger(each) || each < LEAST_LASTS || each > MOST_LASTS,
  );
  if (wrong) return [flaw('pact.lasts', `Keys last ${LEAST_LASTS} to ${MOST_LASTS} seconds.`, 'lasts')];
  return lasts.esp > lasts.ike
    ? [flaw('pact.lasts-order', 'Keys of packets last no longer than those of the exchange.', 'lasts')]
    : [];
}

function checkHere(site: SitePart, { segments, prefixes }: Pact): Flaw[] {
  const gone = segments.some((id) => !site.segments.some((each) => each.id === id));
  if (gone) return [flaw('pact.segment-gone', `A segment of these is no longer at ${site.name}.`, 'segments')];
  if (segments.length + (prefixes ?? []).length === 0)
    return [
      flaw(
        'pact.here-none',
        'Say which segments the other gateway reaches: nothing goes through a tunnel to nobody.',
        'segments',
      ),
    ];
  return read(prefixes ?? [], 'prefixes').flaws;
}

/** Prefixes behind the other: none that this site has itself, or leads elsewhere. */
function checkBehind(site: SitePart, pact: Pact, others: readonly Pact[]): Flaw[] {
  if (pact.behind.length === 0)
    return [
      flaw('pact.behind-none', 'Say which networks are behind the other gateway, such as 10.60.0.0/16.', 'behind'),
    ];
  const { found, flaws } = read(pact.behind, 'behind');
  const known = [
    ...site.segments.flatMap(({ name, subnet, v6 }) => named(name, [subnet, ...(v6 ? [v6.prefix] : [])])),
    ...(site.routers ?? []).flatMap(({ name, behind }) => named(name, behind ?? [])),
    ...others.flatMap(({ name, behind }) => named(name, behind)),
    ...named('what the other reaches here', pact.prefixes ?? []),
  ];
  for (const [i, prefix] of found.entries()) {
    const met =
      known.find((each) => overlaps(each.prefix, prefix)) ??
      named('another line', pact.behind.slice(0, i)).find((each) => overlaps(each.prefix, prefix));
    if (met)
      flaws.push(
        flaw(
          'pact.behind-taken',
          `${formatPrefix(prefix)} overlaps ${formatPrefix(met.prefix)} of “${met.whose}”.`,
          'behind',
        ),
      );
    const at = pact.at ? parseIp(pact.at) : null;
    const within = others.find((each) => each.at && contains(prefix, parseIp(each.at)!));
    if (within)
      flaws.push(
        flaw(
          'pact.within',
          `The gateway of “${within.name}” is in ${formatPrefix(prefix)}: a tunnel inside a tunnel carries nothing.`,
          'behind',
        ),
      );
    // What leads to the other gateway itself would go into the tunnel that begins there.
    if (at && contains(prefix, at))
      flaws.push(
        flaw(
          'pact.inside',
          `${pact.at} is in ${formatPrefix(prefix)}: the tunnel would have to go through itself.`,
          'behind',
        ),
      );
  }
  return flaws;
}

function checkWord(word: PactWord): Flaw[] {
  return [
    ...checkNames(word, 'own', 'other', 'says'),
    ...checkOffer('ike', word.ike, 'says'),
    ...checkOffer('esp', word.esp, 'says'),
    ...read(word.there, 'says').flaws,
    ...read(word.here, 'says').flaws,
  ];
}

const named = (whose: string, texts: readonly string[]): { readonly whose: string; readonly prefix: Prefix }[] =>
  texts.flatMap((text) => {
    const prefix = parsePrefix(text);
    return prefix ? [{ whose, prefix }] : [];
  });

function read(texts: readonly string[], field: string): { readonly found: Prefix[]; readonly flaws: Flaw[] } {
  const found: Prefix[] = [];
  const flaws: Flaw[] = [];
  for (const text of texts) {
    const prefix = parsePrefix(text);
    if (!prefix) flaws.push(flaw('pact.prefix', `“${text}” is no prefix, such as 10.60.0.0/16.`, field));
    else if (prefix.length === 0)
      flaws.push(flaw('pact.prefix-all', 'Everything does not go through it: say which networks do.', field));
    else found.push(prefix);
  }
  return { found, flaws };
}

function normalised({ at, lasts, prefixes, says, ...pact }: Pact): Pact {
  const ip = at ? parseIp(at.trim()) : null;
  const own = (prefixes ?? []).map(plain);
  return {
    ...pact,
    name: pact.name.trim(),
    ...(at?.trim() ? { at: ip ? formatIp(ip) : at.trim() } : {}),
    own: pact.own.trim(),
    other: pact.other.trim(),
    ...(lasts ? { lasts } : {}),
    ...(own.length > 0 ? { prefixes: own } : {}),
    behind: pact.behind.map(plain),
    ...(says
      ? {
          says: {
            ...says,
            own: says.own.trim(),
            other: says.other.trim(),
            there: says.there.map(plain),
            here: says.here.map(plain),
          },
        }
      : {}),
  };
}

function plain(text: string): string {
  const prefix = parsePrefix(text.trim());
  return prefix ? formatPrefix(prefix) : text.trim();
}
