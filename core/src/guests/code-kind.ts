import { lastsWords, readLasts } from '../base';

/** A kind of visit code that is given often: what it is called, how many minutes it lasts, and for how many devices; null: any number. */
export interface CodeKind {
  readonly name: string;
  readonly minutes: number;
  readonly most: number | null;
}

/** Most kinds of a portal, and characters of their names. */
export const [MOST_KINDS, MOST_KIND_NAME] = [12, 40];

/** A kind as people write it: `Day guest: 1 d, 2 devices`. */
export const kindWords = ({ name, minutes, most }: CodeKind): string =>
  `${name}: ${lastsWords(minutes)}, ${most ?? 'any'} ${most === 1 ? 'device' : 'devices'}`;

const DEVICES = /^(any|\d{1,4})(?:\s+devices?)?$/i;

/** Reads one as people write it; without a number it is for one device. @returns null where it is none. */
export function readKind(line: string): CodeKind | null {
  const at = line.lastIndexOf(':');
  const name = line.slice(0, at).trim();
  const [lasts = '', devices = '1', ...more] = line
    .slice(at + 1)
    .split(',')
    .map((part) => part.trim());
  const minutes = readLasts(lasts);
  const [, most] = DEVICES.exec(devices) ?? [];
  if (at < 1 || name === '' || more.length > 0 || !Number.isInteger(minutes) || most === undefined) return null;
  return { name, minutes, most: most.toLowerCase() === 'any' ? null : Number(most) };
}
