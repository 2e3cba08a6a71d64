import { inRange, parsePrefix, parseRange, rangeOf, type IpAddress, type IpRange } from '../address';

/** A line of a walled garden: a name, with all names below it or not, or addresses. */
export type GardenEntry =
  | { readonly kind: 'name'; readonly name: string; readonly below: boolean }
  | { readonly kind: 'addresses'; readonly range: IpRange };

/** Most names by which phones learn whether they are held. */
export const MOST_QUIET = 50;
/** Most lines of a walled garden, and characters of each. */
export const [MOST_GARDEN, MOST_GARDEN_LINE] = [200, 253];

const LABEL = '[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?';
const NAME = new RegExp(`^(\\*\\.)?(${LABEL}\\.)*${LABEL}\\.?$`);

/**
 * Reads a line of a walled garden: `ferries.example`, `*.ferries.example` for the names below it, an address, a prefix, or first and last.
 * Names as of RFC 1123 §2.1. @returns null where it is none of these.
 */
export function readGarden(text: string): GardenEntry | null {
  const line = text.trim().toLowerCase();
  const prefix = parsePrefix(line);
  if (prefix) return { kind: 'addresses', range: rangeOf(prefix) };
  const range = parseRange(line);
  if (range) return { kind: 'addresses', range };
  const below = line.startsWith('*.');
  if (line.length > MOST_GARDEN_LINE || !NAME.test(line) || /^[\d.]+$/.test(line)) return null;
  if (!below && !line.includes('.')) return null;
  return { kind: 'name', name: line.slice(below ? 2 : 0).replace(/\.$/, ''), below };
}

/** Bits of the smallest prefix that is no more than somebody's own: everything below lets a good part of the internet out. */
const WIDE = { 4: 16, 6: 32 } as const;

/** Why a line lets more pass than anybody means, in words; null: it does not. */
export function gardenDoubt(entry: GardenEntry): string | null {
  if (entry.kind === 'name')
    return entry.below && !entry.name.includes('.') ? `every name that ends in .${entry.name} is in it` : null;
  const { version, first, last } = entry.range;
  const size = (version === 4 ? 32 : 128) - WIDE[version];
  return last - first + 1n > 1n << BigInt(size) ? `it holds more addresses than any one service has` : null;
}

/** Whether a name is in a walled garden. */
export function isNameInGarden(garden: readonly GardenEntry[], text: string): boolean {
  const name = text.toLowerCase().replace(/\.$/, '');
  return garden.some(
    (entry) => entry.kind === 'name' && (entry.below ? name.endsWith(`.${entry.name}`) : name === entry.name),
  );
}

/** Whether an address is in a walled garden by itself. */
export const isAddressInGarden = (garden: readonly GardenEntry[], address: IpAddress): boolean =>
  garden.some((entry) => entry.kind === 'addresses' && inRange(entry.range, address));

/** The lines that can be read. */
export const gardenOf = (lines: readonly string[]): GardenEntry[] => lines.flatMap((line) => readGarden(line) ?? []);
