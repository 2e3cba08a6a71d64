import { waysOf } from '../document';
import { isOff, nameIn, type Check } from './check';
import type { Finding } from './finding';

/** Classes that reach the site and name a segment it does not have: their clients are not let in. */
export const classWithoutSegment: Check = ({ site }) =>
  site.accessClasses
    .filter(({ segmentId }) => segmentId === null)
    .map(({ id, name, segment }) => ({
      key: `entry.no-segment ${id}`,
      code: 'entry.no-segment',
      severity: 'warning',
      message: `Clients of the class “${name}” are not let in at ${site.name}`,
      reason: isOff(site, segment)
        ? `They join “${segment}”, which is switched off here.`
        : `They join “${segment}”, which this site does not have. Make it under Lattice, or let the class reach other sites alone.`,
      place: { siteId: site.id, kind: 'class', id },
      mend: null,
    }));

/** Ports that ask who clients are, where a device of ours hangs or nobody can be known. */
export const askingPorts: Check = (context) => {
  const { site, roster, documents, cabled } = context;
  const known = site.accessClasses.some(({ members }) => members.length > 0);
  const chosen = site.accessClasses.length > 0;
  return roster.flatMap((device) =>
    (documents.get(device.id)?.ports ?? []).flatMap(({ name: port, auth }): Finding[] => {
      if (auth === undefined) return [];
      const where = `Port ${port} of ${nameIn(context, device.id)}`;
      const place = { siteId: site.id, kind: 'port' as const, id: device.id, port };
      if (cabled.has(`${device.id} ${port}`)) {
        const from = site.ports[device.id]?.[port] ?? null;
        const at = { siteId: site.id, deviceId: device.id, port };
        const to = { ...from, auth: 'none' as const };
        return [
          {
            key: `entry.device-asked ${device.id} ${port}`,
            code: 'entry.device-asked',
            severity: 'error',
            message: `${where} cuts off the device that hangs there`,
            reason: 'It lets in clients alone that say who they are or are known, and a device of ours is no client.',
            place,
            mend: { label: 'ask nobody there', operations: [{ type: 'port.set', ...at, from, to }] },
          },
        ];
      }
      const servers = documents.get(device.id)?.radius?.servers ?? [];
      const found = (code: string, severity: Finding['severity'], reason: string): Finding => {
        return {
          key: `${code} ${device.id} ${port}`,
          code,
          severity,
          message: `${where} lets nobody in`,
          reason,
          place,
          mend: null,
        };
      };
      const ways = waysOf(auth);
      const byMac = ways.includes('mac') && (known || (chosen && servers.some(({ macs }) => macs !== undefined)));
      if (byMac || (ways.includes('802.1X') && servers.length > 0)) return [];
      if (ways.includes('802.1X'))
        return [
          found(
            'entry.nobody-asked',
            'error',
            'It asks who somebody is (802.1X), and no RADIUS server reaches this site that could be asked. Add one under Entry, or have this controller asked.',
          ),
        ];
      return [
        found(
          'entry.nobody-known',
          'warning',
          'It asks for a known MAC address; no access class has any here, and no RADIUS server is asked about them. Give a class some under Entry, or add a server.',
        ),
      ];
    }),
  );
};
