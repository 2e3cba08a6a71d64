import type { Mishap, MishapKind } from '@iron-lattice/core/paths';
import { numberTyped } from '../ui/number-typed';

/** A mishap as it is typed. */
export interface MishapText {
  readonly what: MishapKind;
  readonly port: string;
  readonly from: string;
  readonly to: string;
  readonly amount: string;
  readonly target: string;
}

export const MISHAP_WORDS: Readonly<Record<MishapKind, string>> = {
  cut: 'its link is cut',
  silent: 'nothing gets through',
  lossy: 'packets get lost',
  slow: 'packets come late',
  target: 'a target does not answer',
  off: 'the gateway has no power',
};

/** What the amount of a mishap is; empty: it has none. */
export const AMOUNT_WORDS: Readonly<Record<MishapKind, string>> = {
  cut: '',
  silent: '',
  lossy: '% lost',
  slow: 'ms more',
  target: '',
  off: '',
};

export const newMishap = (port: string): MishapText => ({
  ...{ what: 'silent', port, from: '30', to: '150', amount: '', target: '' },
});

/** What is typed as a mishap, or what is wrong with it. @param most seconds at which it has to be over. */
export function readMishap(text: MishapText, gatewayId: string, most: number): { mishap: Mishap } | { flaw: string } {
  const [from, to, amount] = [numberTyped(text.from), numberTyped(text.to), numberTyped(text.amount)];
  if (from === null || from < 0 || from >= most) return { flaw: `It begins 0 to ${most - 1} s after the start.` };
  if (to === null || to <= from || to > most)
    return { flaw: `It ends after it began, and ${most} s after the start at the latest.` };
  if (AMOUNT_WORDS[text.what] !== '' && (amount === null || amount <= 0)) return { flaw: 'Say how much.' };
  if (text.what === 'lossy' && amount! > 100) return { flaw: 'No more than 100 % get lost.' };
  if (text.what === 'target' && text.target.trim() === '') return { flaw: 'Say which target does not answer.' };
  const share = text.what === 'lossy' ? { amount: amount! / 100 } : text.what === 'slow' ? { amount: amount! } : {};
  const target = text.what === 'target' ? { target: text.target.trim().toLowerCase() } : {};
  const port = text.what === 'off' ? '' : text.port;
  return { mishap: { what: text.what, port, from, to, gatewayId, ...share, ...target } };
}

/** A mishap as it would be typed. */
export const mishapTextOf = ({ what, port, from, to, amount, target }: Mishap): MishapText => ({
  ...{ what, port, from: `${from}`, to: to === null ? '' : `${to}`, target: target ?? '' },
  amount: amount === undefined ? '' : `${what === 'lossy' ? Math.round(amount * 100) : amount}`,
});

/** What a mishap may happen to: an uplink, all of a provider, or all of the gateway. */
export interface MishapPlace {
  readonly value: string;
  readonly label: string;
  readonly ports: readonly string[];
}
/** Stands for every uplink of the gateway. */
export const ALL_UPLINKS = '*';

/** What mishaps may happen to: each uplink, each provider that several of them lead to, and all at once. */
export function mishapPlaces(lanes: readonly { readonly port: string; readonly title: string }[]): MishapPlace[] {
  const titles = [...new Set(lanes.map(({ title }) => title))];
  const providers = titles.flatMap((title): MishapPlace[] => {
    const ports = lanes.filter((each) => each.title === title).map(({ port }) => port);
    return ports.length > 1 && ports.length < lanes.length
      ? [{ value: `${ALL_UPLINKS}${title}`, label: `all of ${title}`, ports }]
      : [];
  });
  const all = lanes.map(({ port }) => port);
  return [
    ...lanes.map(({ port, title }) => ({
      value: port,
      label: titles.length < lanes.length ? `${title} (${port})` : title,
      ports: [port],
    })),
    ...providers,
    ...(lanes.length > 1 ? [{ value: ALL_UPLINKS, label: 'all of them at once', ports: all }] : []),
  ];
}

/** A mishap at each uplink that it happens to. */
export const atEach = (mishap: Mishap, places: readonly MishapPlace[]): Mishap[] =>
  (places.find(({ value }) => value === mishap.port)?.ports ?? [mishap.port]).map((port) => ({ ...mishap, port }));

/** Mishaps as they would be typed: what happens to several uplinks alike stands once where there is a word for them. */
export function mishapTextsOf(mishaps: readonly Mishap[], places: readonly MishapPlace[]): MishapText[] {
  const alike = new Map<string, Mishap[]>();
  for (const each of mishaps) {
    const key = JSON.stringify({ ...each, port: '' });
    alike.set(key, [...(alike.get(key) ?? []), each]);
  }
  return [...alike.values()].flatMap((group) => {
    const ports = new Set(group.map(({ port }) => port));
    const place = places.find(
      (each) => each.ports.length === ports.size && each.ports.every((port) => ports.has(port)),
    );
    return place ? [mishapTextOf({ ...group[0]!, port: place.value })] : group.map(mishapTextOf);
  });
}
