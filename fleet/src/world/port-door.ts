import {
  classBySaid,
  classOf,
  portalBySaid,
  type PortalDocument,
  type PortDocument,
} from '@iron-lattice/core/document';
import { entersPort, fitsPort, type AtPort, type PortTried } from '@iron-lattice/core/lattice';
import type { EnteredReport, NamedReport, UnknownReport } from '@iron-lattice/core/line';
import type { Box } from './box';
import type { Enters } from './enters';
import { namedBy, type Namer } from './named';

type Why = UnknownReport['why'];

/** What became of a client at a port, and what was said of it. */
export interface PortClient extends AtPort<Why> {
  readonly named?: NamedReport;
  readonly entered?: EnteredReport;
  /** Holds it until it is let in as a guest. */
  readonly portal?: PortalDocument;
  /** Why nobody knows it, who said so, and what that named. */
  readonly unknown?: Pick<UnknownReport, 'why' | 'server' | 'said'>;
}

/** A client of a port, as far as it matters who it is. */
interface Comer {
  readonly mac: string;
  readonly enters?: Enters;
}

/** What becomes of a client at a port, by what the box knows and servers say; by itself, whoever else is there. */
export function atPort(box: Box, port: PortDocument, { mac, enters }: Comer, namer: Namer): PortClient {
  const { document } = box;
  const { name, quiet, again } = port;
  const times = { ...(quiet === undefined ? {} : { quiet }), ...(again === undefined ? {} : { again }) };
  let said: Pick<PortClient, 'named' | 'entered' | 'portal'> = {};
  const heldBy = (portal: PortalDocument | undefined) => (portal ? { portal } : {});
  let unknown: PortClient['unknown'];
  const dot1x = (): PortTried<Why> => {
    if (!enters) return { state: 'mute' };
    const proved = namer.prove(box, mac, name, enters, times);
    if (!proved) return { state: 'asking' };
    const { server } = proved;
    if (!proved.ok) {
      const why = proved.why as Why;
      unknown = { why, ...(server === undefined ? {} : { server }) };
      return { state: why === 'nobody' || why === 'unasked' ? 'unanswered' : 'not', why };
    }
    const chosen = classBySaid(document, proved.said);
    if (!chosen.ok) {
      unknown = { why: chosen.why, said: chosen.said, server: proved.server };
      return { state: 'not', why: chosen.why };
    }
    const { accessClass } = chosen;
    const { user, method } = enters;
    said = {
      entered: { user, method, server: proved.server },
      ...(accessClass ? namedBy({ accessClass, server: proved.server }) : {}),
      ...heldBy(portalBySaid(document, proved.said)),
    };
    return { state: 'in', accessClass };
  };
  const byMac = (): PortTried<Why> => {
    const listed = classOf(document, mac);
    const named = listed ? undefined : namer.of(box, mac, name, times);
    if (named) said = { ...namedBy(named), ...heldBy(namer.portalOf(box, mac)) };
    if (listed || named) return { state: 'in', accessClass: listed ?? named!.accessClass };
    if (!document.radius?.servers.some(({ macs }) => macs !== undefined)) {
      unknown ??= { why: 'unlisted' };
      return { state: 'not', why: 'unlisted' };
    }
    const why = namer.whyNot(box, mac);
    if (!why) return { state: 'asking' };
    unknown ??= why;
    return { state: why.why === 'nobody' ? 'unanswered' : 'not', why: why.why };
  };
  const found = entersPort<Why>(port, { '802.1X': dot1x, mac: byMac });
  if (found.vlan !== null && found.way) return { ...found, ...said };
  // Whom nobody knows is a guest, wherever the port puts it.
  const held = found.vlan === null ? {} : heldBy(port.portal);
  if (found.why === undefined) return { ...found, ...held };
  // Why the port put it where it is says more than what was said last.
  return { ...found, ...held, unknown: unknown?.why === found.why ? unknown : { why: found.why } };
}

/** The same of all clients of a port, in the order in which they came: whom there is no room for is not let in. */
export function clientsAtPort<C extends Comer>(
  box: Box,
  port: PortDocument,
  comers: readonly C[],
  namer: Namer,
): readonly { readonly client: C; readonly at: PortClient }[] {
  const there: PortClient[] = [];
  return comers.map((client) => {
    const at = atPort(box, port, client, namer);
    if (at.vlan === null) return { client, at };
    if (!fitsPort(port, there, at)) return { client, at: { vlan: null, why: 'full', unknown: { why: 'full' } } };
    there.push(at);
    return { client, at };
  });
}
