import { portSetting } from '../intent';
import { nameIn, type Check } from './check';
import type { Finding } from './finding';

/** Ports that are in use at hours alone, and that something of ours hangs on: it would be cut off at other times. */
export const portHours: Check = (context) => {
  const { site, links, devices } = context;
  return links.flatMap(({ a, b }) =>
    [
      [a, b],
      [b, a],
    ].flatMap(([near, far]): Finding[] => {
      const device = devices.get(near!.deviceId);
      const port = context.documents.get(near!.deviceId)?.ports.find(({ name }) => name === near!.port);
      if (!device || !port?.hours) return [];
      const { hours: _hours, ...rest } = site.ports[device.id]?.[port.name] ?? {};
      const base = { ...site, ports: { ...site.ports, [device.id]: { ...site.ports[device.id], [port.name]: rest } } };
      // Where its duty has hours, the port says that it has none.
      const to = portSetting(base, device, port.name).hours === null ? rest : { ...rest, hours: null };
      const from = site.ports[device.id]?.[port.name] ?? null;
      const other = nameIn(context, far!.deviceId);
      return [
        {
          key: `lattice.port-hours ${device.id} ${port.name}`,
          code: 'lattice.port-hours',
          severity: 'error',
          message: `Outside of ${port.hours.name}, ${other} would be cut off from ${device.name}`,
          reason: `It hangs on port ${port.name}, which is in use at these hours alone: at other times nothing passes there, and it gives no power.`,
          place: { siteId: site.id, kind: 'port', id: device.id, port: port.name },
          mend: {
            label: `use port ${port.name} of ${device.name} at all hours`,
            operations: [
              {
                type: 'port.set',
                ...{ siteId: site.id, deviceId: device.id, port: port.name, from },
                to: Object.keys(to).length > 0 ? to : null,
              },
            ],
          },
        },
      ];
    }),
  );
};
