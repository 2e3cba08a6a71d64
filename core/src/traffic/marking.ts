/** Access categories of the air (IEEE 802.11-2020 §10.2.3.2), the most patient first. */
export const CATEGORIES = ['BK', 'BE', 'VI', 'VO'] as const;
export type Category = (typeof CATEGORIES)[number];

/** What somebody marks packets for. */
export interface Mark {
  /** Name of the code point. */
  readonly name: string;
  /** The code point, 0 to 63 (RFC 2474 §3). */
  readonly dscp: number;
  /** What it is for (RFC 4594 §2.3, RFC 5865, RFC 8622). */
  readonly use: string;
  /** User priority that it is sent with on the air (RFC 8325 §4.3). */
  readonly priority: number;
}

/** The four of a class of assured forwarding, by how soon they are dropped: 8 × class + 2 × drop (RFC 2597 §6). */
const assured = (of: number, use: string, priority: number): Mark[] =>
  [1, 2, 3].map((drop) => ({ name: `AF${of}${drop}`, dscp: 8 * of + 2 * drop, use, priority }));
/** A class selector: 8 × class (RFC 2474 §4.2.2). */
const selector = (of: number, use: string, priority: number): Mark => ({
  ...{ name: `CS${of}`, dscp: 8 * of, use, priority },
});

/** Code points that have a name, ascending. */
export const MARKS: readonly Mark[] = [
  selector(0, 'whatever else', 0),
  { name: 'LE', dscp: 1, use: 'what may wait for everything', priority: 1 },
  selector(1, 'what may wait', 1),
  ...assured(1, 'bulk', 0),
  selector(2, 'management', 0),
  ...assured(2, 'transactions', 3),
  selector(3, 'broadcast video', 4),
  ...assured(3, 'streaming', 4),
  selector(4, 'real-time interaction', 4),
  ...assured(4, 'video calls', 4),
  selector(5, 'signalling', 5),
  { name: 'VA', dscp: 44, use: 'admitted calls', priority: 6 },
  { name: 'EF', dscp: 46, use: 'calls', priority: 6 },
  selector(6, 'network control', 7),
  selector(7, 'network control', 7),
].sort((a, b) => a.dscp - b.dscp);

const byName = new Map(MARKS.map((mark) => [mark.name, mark]));
const byDscp = new Map(MARKS.map((mark) => [mark.dscp, mark]));
/** Other names of code points. */
const ALSO: Readonly<Record<string, string>> = { DF: 'CS0', BE: 'CS0' };

/** The code point that a name or a number says; null: none. */
export function readMark(text: string): number | null {
  const said = text.trim().toUpperCase();
  const named = byName.get(ALSO[said] ?? said);
  if (named) return named.dscp;
  const number = /^\d{1,2}$/.test(said) ? Number(said) : NaN;
  return number <= 63 ? number : null;
}

/** A code point by its name, or as a number where it has none. */
export const writeMark = (dscp: number): string => byDscp.get(dscp)?.name ?? `${dscp}`;

/** What a code point that has a name is for. */
export const useOfMark = (dscp: number): string | null => byDscp.get(dscp)?.use ?? null;

/** The octet of the header that holds a code point, without congestion (RFC 2474 §3, RFC 3168 §5). */
export const octetOfMark = (dscp: number): number => dscp << 2;

/** The user priority that a packet is sent with on the air; what nothing is said of goes as best effort (RFC 8325 §4.3). */
export const priorityOf = (dscp: number): number => byDscp.get(dscp)?.priority ?? 0;

/** What an AP makes of it that takes the first three bits for the priority, against which RFC 8325 §2.3 warns. */
export const plainPriorityOf = (dscp: number): number => dscp >> 3;

/** The access category of a user priority, 0 to 7 (IEEE 802.11-2020 Table 10-1): 1 and 2 come after 0. */
export const categoryOf = (priority: number): Category =>
  priority >= 6 ? 'VO' : priority >= 4 ? 'VI' : priority === 1 || priority === 2 ? 'BK' : 'BE';

/** How long a category waits before it sends. */
export interface Patience {
  /** Slots after the shortest gap, and least and greatest window in slots. */
  readonly aifsn: number;
  readonly least: number;
  readonly greatest: number;
}
/** As a network says them usually (IEEE 802.11-2020 Table 9-155). */
export const PATIENCE: Readonly<Record<Category, Patience>> = {
  BK: { aifsn: 7, least: 15, greatest: 1023 },
  BE: { aifsn: 3, least: 15, greatest: 1023 },
  VI: { aifsn: 2, least: 7, greatest: 15 },
  VO: { aifsn: 2, least: 3, greatest: 7 },
};

/** How long a category waits at least, and by chance on the mean at its first try, in microseconds. @param sifs shortest gap. @param slot both in microseconds. */
export function waitsOf(
  category: Category,
  sifs: number,
  slot: number,
): { readonly gap: number; readonly mean: number } {
  const { aifsn, least } = PATIENCE[category];
  return { gap: sifs + aifsn * slot, mean: (least / 2) * slot };
}
