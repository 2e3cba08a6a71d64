import { parseIp } from '@iron-lattice/core/address';
import { sheetOf } from '@iron-lattice/core/hardware';
import type { RosterDevice, ServedFrom } from '@iron-lattice/core/intent';
import type { Token, TokenSource } from '../../ui/token-field';

/** What gives a segment's addresses. */
export type ServedBy = 'gateway' | 'switch' | 'server' | 'every ap' | 'aps' | 'nobody';

const GATEWAY = 'gateway';
const EVERY_AP = 'every AP';

/** What gives addresses, as text: `gateway`, `every AP`, names of boxes, or the address of a server. */
export function writeServed(from: ServedFrom, roster: readonly RosterDevice[]): string {
  const name = (id: string): string => roster.find((device) => device.id === id)?.name ?? id;
  if (from.kind === 'gateway') return GATEWAY;
  if (from.kind === 'relay') return from.server;
  if (from.kind === 'switch') return name(from.deviceId);
  return from.how === 'each' ? EVERY_AP : from.deviceIds.map(name).join(', ');
}

/** What a text of boxes comes to. */
export function servedBy(text: string, roster: readonly RosterDevice[]): ServedBy {
  const [first] = partsOf(text);
  return first === undefined ? 'nobody' : roleOf(first, roster);
}

/** The same as the cell of a list of segments has it. */
export function servedCell(text: string, address: string, roster: readonly RosterDevice[]): string {
  const parts = partsOf(text);
  const names = parts.join(' ');
  const by = servedBy(text, roster);
  if (by === 'switch') return `switch ${names} ${address}`;
  if (by === 'server') return `relay ${names}`;
  if (by === 'aps') return `${parts.length === 1 ? 'one ap' : 'tree'} ${names}`;
  return by === 'every ap' ? 'each ap' : 'gateway';
}

/** Ids of the boxes that give a segment's addresses. */
export function servingBoxes(text: string, roster: readonly RosterDevice[]): ReadonlySet<string> {
  const by = servedBy(text, roster);
  if (by === 'gateway' || by === 'every ap') {
    const kind = by === 'gateway' ? 'gateway' : 'ap';
    return new Set(roster.filter((device) => kindOf(device) === kind).map(({ id }) => id));
  }
  const names = new Set(partsOf(text).map((part) => part.toLowerCase()));
  return new Set(roster.filter(({ name }) => names.has(name.toLowerCase())).map(({ id }) => id));
}

/** The text once a box was pressed: one that gives goes, one that does not comes, and takes the place of what cannot give beside it. */
export function pressBox(text: string, device: RosterDevice, roster: readonly RosterDevice[]): string {
  const source = servedTokens(roster);
  const pressed = source.read(kindOf(device) === 'gateway' ? GATEWAY : device.name);
  const everyAp = servedBy(text, roster) === 'every ap' && kindOf(device) === 'ap';
  // Of every AP but one those that are there now stay.
  const boxes = everyAp ? roster.filter((each) => kindOf(each) === 'ap').map(({ name }) => name) : partsOf(text);
  const others = boxes.filter((part) => part.toLowerCase() !== pressed[0]!.text.toLowerCase());
  const rest = others.flatMap((part) => source.read(part));
  return source.join(others.length < boxes.length ? rest : [...rest, ...pressed]);
}

/** The boxes of a site as tokens: APs beside each other, anything else alone. */
export function servedTokens(roster: readonly RosterDevice[]): TokenSource {
  const token = (text: string): Token => {
    const role = roleOf(text, roster);
    if (role === 'gateway') return { text: GATEWAY, label: GATEWAY, kind: '' };
    if (role === 'every ap') return { text: EVERY_AP, label: EVERY_AP, kind: '' };
    if (role === 'server') return { text, label: text, kind: 'server' };
    const device = roster.find(({ name }) => name.toLowerCase() === text.toLowerCase());
    if (!device) return { text, label: text, kind: '', bad: true };
    return { text: device.name, label: device.name, kind: role === 'switch' ? 'switch' : 'AP' };
  };
  const boxes = roster.filter((device) => kindOf(device) !== 'gateway').map(({ name }) => token(name));
  return {
    read: (text) => partsOf(text).map(token),
    join: (tokens) => {
      const last = tokens.at(-1);
      const beside = tokens.filter(({ text }) => roleOf(text, roster) === 'aps');
      if (!last) return '';
      return (roleOf(last.text, roster) === 'aps' ? beside : [last]).map(({ text }) => text).join(', ');
    },
    options: [
      { text: GATEWAY, label: GATEWAY, kind: 'the one that routes it' },
      { text: EVERY_AP, label: EVERY_AP, kind: 'also those that come' },
      ...boxes.filter(({ kind }) => kind === 'AP'),
      ...boxes.filter(({ kind }) => kind === 'switch'),
    ],
    separator: ',',
  };
}

const partsOf = (text: string): string[] =>
  text
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part !== '');

const kindOf = (device: RosterDevice) => (sheetOf(device.model) ?? device.sheet)?.kind;

function roleOf(part: string, roster: readonly RosterDevice[]): Exclude<ServedBy, 'nobody'> {
  const word = part.toLowerCase();
  if (word === GATEWAY) return 'gateway';
  if (word === EVERY_AP.toLowerCase()) return 'every ap';
  if (parseIp(part)) return 'server';
  const device = roster.find(({ name }) => name.toLowerCase() === word);
  const kind = device && kindOf(device);
  return kind === 'gateway' ? 'gateway' : kind === 'switch' ? 'switch' : 'aps';
}
