import type { SitePart } from '../intent';

/** An end of a question that is said to be at a site: `Ticketing at Ansel Quay`. */
export interface Elsewhere {
  readonly siteId: string;
  readonly site: string;
  /** What is meant there. */
  readonly name: string;
}

/** Reads an end that names a site; null where it names none. */
export function saidElsewhere(
  text: string,
  sites: Iterable<{ readonly id: string; readonly name: string }>,
): Elsewhere | null {
  const words = text.trim();
  for (const { id, name } of sites) {
    const tail = ` at ${name}`.toLowerCase();
    if (words.length > tail.length && words.toLowerCase().endsWith(tail))
      return { siteId: id, site: name, name: words.slice(0, -tail.length).trim() };
  }
  return null;
}

/** The addresses of a segment of a site, as they are typed; null where it has none of that name. */
export function addressesOfSegment({ segments }: Pick<SitePart, 'segments'>, name: string): string | null {
  const found = segments.find((each) => each.name.toLowerCase() === name.toLowerCase() && !each.off);
  return found ? [found.subnet, ...(found.v6 ? [found.v6.prefix] : [])].join(', ') : null;
}
