import type { Token, TokenSource } from '../ui/token-field';
import { portsTyped } from './course-text';
import { titleOf, type UplinkRow } from './path-rows';

/** The port that is meant by its own name, or by what its uplink is called. */
export const portMeant = (typed: string, rows: readonly UplinkRow[]): string =>
  rows.find((row) => titleOf(row).toLowerCase() === typed.toLowerCase())?.port ?? typed;

/** Uplinks to be chosen, by their ports or by what they are called. */
export function uplinkTokens(rows: readonly UplinkRow[]): TokenSource {
  const token = (port: string): Token => {
    const row = rows.find((each) => each.port === port);
    return { text: port, label: row ? titleOf(row) : port, kind: port, bad: row === undefined };
  };
  return {
    read: (text) => portsTyped(text).map((typed) => token(portMeant(typed, rows))),
    join: (tokens) => tokens.map(({ text }) => text).join(', '),
    options: rows.map(({ port }) => token(port)),
    separator: ',',
  };
}
