import type { DeviceDocument } from './document';

/** One readable line of what would change on a device. */
export interface DifferenceLine {
  readonly op: 'add' | 'remove' | 'change';
  /** Where, from the outside in, e.g. `ports 7`, `tagged`. */
  readonly path: readonly string[];
  readonly before: string | null;
  readonly after: string | null;
}

/** A device's difference and how many lines it adds and removes; a change counts as both. */
export interface Difference {
  readonly lines: readonly DifferenceLine[];
  readonly added: number;
  readonly removed: number;
}

/** Fields that name an element of a list, so that elements are compared by name and not by place. */
const KEYS = ['vlan', 'port', 'name', 'id'] as const;

/**
 * Compares two documents of a device leaf by leaf; list elements are matched by their key.
 * @param before null when the device has no document yet.
 */
export function differenceOf(before: DeviceDocument | null, after: DeviceDocument): Difference {
  const old = before ? flatten(before) : new Map<string, string>();
  const now = flatten(after);
  const lines: DifferenceLine[] = [];
  for (const key of [...new Set([...old.keys(), ...now.keys()])].sort(byNaturalOrder)) {
    const [a, b] = [old.get(key) ?? null, now.get(key) ?? null];
    if (a === b) continue;
    lines.push({ op: a === null ? 'add' : b === null ? 'remove' : 'change', path: key.split(SEPARATOR), before: a, after: b });
  }
  return {
    lines,
    added: lines.filter((line) => line.op !== 'remove').length,
    removed: lines.filter((line) => line.op !== 'add').length,
  };
}

const SEPARATOR = '\u0000';

function flatten(value: unknown, path: readonly string[] = [], into = new Map<string, string>()): Map<string, string> {
  if (Array.isArray(value)) {
    if (value.every((item) => typeof item !== 'object' || item === null)) {
      // A list of plain values is a set: each is a line of its own, so one tag more reads as one line more.
      for (const item of value) into.set([...path, String(item)].join(SEPARATOR), String(item));
    } else
      for (const item of value as Record<string, unknown>[]) {
        const field = 'ssids' === path[path.length - 1] ? 'name' : KEYS.find((key) => key in item);
        flatten(item, [...path, field ? String(item[field]) : JSON.stringify(item)], into);
      }
  } else if (typeof value === 'object' && value !== null) {
    for (const [key, item] of Object.entries(value)) flatten(item, [...path, key], into);
  } else into.set(path.join(SEPARATOR), String(value));
  return into;
}

const collator = new Intl.Collator('en', { numeric: true });
const byNaturalOrder = (a: string, b: string): number => collator.compare(a, b);
