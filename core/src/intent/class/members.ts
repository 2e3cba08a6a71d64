import { formatMac, parseMac } from '../../address';
import type { ClassMember } from './class';

/** What a list of clients comes to. */
export interface MemberList {
  readonly members: readonly ClassMember[];
  /** Lines that could not be read, by number from 1. */
  readonly wrong: readonly { readonly line: number; readonly text: string; readonly why: string }[];
}

/**
 * Reads clients as they are typed or pasted: one a line, the MAC address first, then what it is; empty lines do not count.
 * A line that says the same address as another is wrong.
 */
export function readMembers(text: string): MemberList {
  const members: ClassMember[] = [];
  const wrong: { line: number; text: string; why: string }[] = [];
  const seen = new Map<string, number>();
  for (const [i, whole] of text.split(/\r?\n/).entries()) {
    const line = i + 1;
    const [, first = '', name = ''] = /^\s*([^\s,;]+)[\s,;]*(.*)$/.exec(whole) ?? [];
    if (first === '') continue;
    const value = parseMac(first);
    const mac = value === null ? first : formatMac(value);
    const before = seen.get(mac);
    if (value === null) wrong.push({ line, text: whole.trim(), why: `“${first}” is no MAC address` });
    else if (before) wrong.push({ line, text: whole.trim(), why: `${mac} is on line ${before} already` });
    else {
      seen.set(mac, line);
      members.push({ mac, name: name.trim() });
    }
  }
  return { members, wrong };
}

/** Clients as they would be typed. */
export const writeMembers = (members: readonly ClassMember[]): string =>
  members.map(({ mac, name }) => `${mac} ${name}`.trimEnd()).join('\n');
