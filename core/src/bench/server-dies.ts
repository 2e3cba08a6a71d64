import { asksWho, waysOf, type DeviceDocument, type RadiusServerDocument } from '../document';
import type { ResolvedSite } from '../intent';
import type { Documents } from '../lattice';
import type { LosesServer } from './gets.contract';

/**
 * What happens at a site when a server does not answer any more: at each SSID and at ports that ask it, who is asked instead, and what
 * becomes of whom nobody answers about. Those alike are told together.
 */
export function ifServerDies(
  { site, documents }: { readonly site: ResolvedSite; readonly documents: Documents },
  name: string,
): LosesServer[] {
  const rows = new Map<string, LosesServer & { readonly count: number }>();
  const told = (key: string, row: Omit<LosesServer, 'where'>, where: string): void => {
    const before = rows.get(key);
    rows.set(key, before ? { ...before, count: before.count + 1 } : { ...row, where, count: 1 });
  };
  for (const device of documents.values()) {
    const { servers = [] } = device.radius ?? {};
    const dead = servers.find((each) => each.name === name);
    if (!dead) continue;
    if (device.kind === 'ap')
      for (const ssid of device.ssids) {
        const who = asksWho(ssid.security);
        if (!who && !(ssid.byClass && dead.macs !== undefined)) continue;
        const next = nextOf(servers, dead, !who);
        const nobody = who
          ? 'Nobody new is let in; who is there stays until asked anew.'
          : `Whom no class lists joins the segment of “${ssid.name}”, as somebody whom nobody knows.`;
        told(`ssid ${ssid.id}`, lost(dead, next, nobody), `“${ssid.name}”`);
      }
    for (const port of device.ports) {
      const ways = waysOf(port.auth);
      const asks = ways.includes('802.1X') || (ways.includes('mac') && dead.macs !== undefined);
      if (!asks) continue;
      const next = nextOf(servers, dead, !ways.includes('802.1X'));
      const segment = site.segments.find(({ vlan }) => vlan === port.unanswered)?.name;
      const nobody =
        segment === undefined
          ? 'Nobody new is let in; who is there stays until asked anew.'
          : `Whoever comes joins ${segment}, the segment for when no server answers.`;
      told(`ports ${port.auth} ${next?.name} ${nobody}`, lost(dead, next, nobody), portWords(device, port.name));
    }
  }
  return [...rows.values()].map(({ count, where, ...row }) => ({
    ...row,
    where: where.startsWith('“') || count === 1 ? where : `${count} ports, such as ${where}`,
  }));
}

const portWords = ({ device }: DeviceDocument, port: string): string => `${device.name} port ${port}`;

/** Who is asked after a server that does not answer. */
function nextOf(
  servers: readonly RadiusServerDocument[],
  dead: RadiusServerDocument,
  byMac: boolean,
): RadiusServerDocument | undefined {
  const others = servers.filter((each) => each !== dead && (!byMac || each.macs !== undefined));
  return [...others].sort((a, b) => a.order - b.order)[0];
}

const lost = (
  { timeout, tries, dead: left }: RadiusServerDocument,
  next: RadiusServerDocument | undefined,
  nobody: string,
): Omit<LosesServer, 'where'> => ({
  next: next?.name ?? null,
  words: next
    ? `“${next.name}” is asked instead: somebody waits ${timeout * tries} s at first, then it is left alone for ${left} s.`
    : nobody,
});
