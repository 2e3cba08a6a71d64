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
const KEYS = ['vlan', 'port', 'name', 'code', 'first'] as const;
/** Lists whose elements are known by another field than the first of KEYS that they have. */
const KEY_OF: Readonly<Record<string, string>> = {
  classes: 'name',
  ssids: 'name',
  reservations: 'mac',
  rules: 'name',
  times: 'from',
};
/** Lists whose order decides. */
const ORDERED = new Set(['rules']);
/** Fields that mean nothing to people; where they differ, another field does too. */
const UNSAID = new Set(['id']);

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
    const path = key.split(IN_SET)[0]!.split(SEPARATOR);
    lines.push({ op: a === null ? 'add' : b === null ? 'remove' : 'change', path, before: a, after: b });
  }
  return {
    lines,
    added: lines.filter((line) => line.op !== 'remove').length,
    removed: lines.filter((line) => line.op !== 'add').length,
  };
}

const SEPARATOR = '\u0000';
/** Stands before a member of a set in a key; what follows is not part of the path. */
const IN_SET = '\u0001';

function flatten(value: unknown, path: readonly string[] = [], into = new Map<string, string>()): Map<string, string> {
  if (Array.isArray(value)) {
    if (value.every((item) => typeof item !== 'object' || item === null)) {
      // A list of plain values is a set: each is a line of its own, so one tag more reads as one line more.
      for (const item of value) into.set(path.join(SEPARATOR) + IN_SET + String(item), String(item));
    } else
      for (const [at, item] of (value as Record<string, unknown>[]).entries()) {
        const list = path[path.length - 1]!;
        const field = KEY_OF[list] ?? KEYS.find((key) => key in item)!;
        const { [field]: name, ...rest } = item;
        // Where the order decides, a line says what each comes behind: one that moves is few lines.
        const behind = ORDERED.has(list) && at > 0 ? { behind: (value[at - 1] as Record<string, unknown>)[field] } : {};
        flatten({ ...rest, ...behind }, [...path, String(name)], into);
      }
  } else if (typeof value === 'object' && value !== null) {
    for (const [key, item] of Object.entries(value)) if (!UNSAID.has(key)) flatten(item, [...path, key], into);
  } else into.set(path.join(SEPARATOR), String(value));
  return into;
}

const collator = new Intl.Collator('en', { numeric: true });
const byNaturalOrder = (a: string, b: string): number => collator.compare(a, b);
