import type { AccessClass } from '@iron-lattice/core/intent';
import type { SiteClient } from '@iron-lattice/core/lattice';
import { METHOD_WORDS } from '@iron-lattice/core/radius';

/** A client that is here by who it is, or by what it does not say. */
export interface Session {
  readonly client: SiteClient;
  /** Who it is: its user, as it is listed, as it calls itself, or its MAC address. */
  readonly who: string;
  /** How that is known. */
  readonly how: string;
  /** The server that said so; empty: none. */
  readonly server: string;
  /** Name of its class; empty: none. */
  readonly className: string;
}

/** Why a client is in a segment of its port’s for such, in words. */
const FELL = {
  guest: 'does not say who it is',
  rejected: 'turned away',
  unanswered: 'no server answered',
} as const;

/** Clients of a site whose place follows from who they are, by name. @param classes of the site. */
export function sessionsOf(clients: readonly SiteClient[], classes: readonly AccessClass[]): Session[] {
  const byId = new Map(classes.map((each) => [each.id, each.name]));
  const listed = new Map(
    classes.flatMap(({ name, members }) => members.map((each) => [each.mac, { name, as: each.name }] as const)),
  );
  return clients
    .flatMap((client): Session[] => {
      const { at, mac, name, entered, named, classId, key, keyedBy, fell } = client;
      if (!at) return [];
      const server = entered?.server ?? named?.server ?? keyedBy ?? '';
      const className = byId.get(classId ?? named?.classId ?? '') ?? '';
      const who = name || mac;
      if (entered) return [{ client, who: entered.user, how: METHOD_WORDS[entered.method], server, className }];
      if (named) return [{ client, who, how: 'MAC address, known there', server, className }];
      if (keyedBy !== undefined) return [{ client, who, how: 'key of a ring, named there', server, className }];
      if (fell) return [{ client, who, how: FELL[fell], server, className }];
      if (classId === undefined) return [];
      if (key !== undefined) return [{ client, who, how: 'key of a ring', server, className }];
      const known = listed.get(mac);
      if (known?.name !== className) return [{ client, who, how: 'as everybody else', server, className }];
      return [{ client, who: known.as || who, how: 'MAC address, listed', server, className }];
    })
    .sort((a, b) => (a.who < b.who ? -1 : 1));
}

/** Where a client is attached, in words. */
export const placeOf = ({ at }: SiteClient): string =>
  at ? `${at.deviceName} ${at.ssid === undefined ? `port ${at.port}` : `“${at.ssid}”`}` : '';
