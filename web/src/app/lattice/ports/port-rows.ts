import { sheetFor } from '@iron-lattice/core/hardware';
import type { DeviceView } from '@iron-lattice/core/intake';
import {
  AIRED,
  exceptionsOf,
  isApUplink,
  isUplink,
  portSetting,
  type PortSetting,
  type RosterDevice,
  type SitePart,
} from '@iron-lattice/core/intent';

/** One port as tables and panels show it. */
export interface PortRow {
  /** `device port`. */
  readonly key: string;
  readonly device: RosterDevice;
  readonly port: string;
  readonly setting: PortSetting;
  /** Name of its duty; empty when none was given. */
  readonly duty: string;
  /** What is said of it alone, in words. */
  readonly exceptions: readonly string[];
  readonly untagged: string;
  readonly tagged: string;
  /** What hangs there, as reported. */
  readonly peer: string;
  readonly up: boolean | null;
  readonly speed: number | null;
  readonly watts: number | null;
  /** Most power it can give; null when none. */
  readonly mostWatts: number | null;
  /** Why it cannot be changed here; empty when it can. */
  readonly locked: string;
}

const SAID: Readonly<Record<string, string>> = {
  untagged: 'untagged',
  tagged: 'tagged',
  poe: 'power',
  priority: 'power priority',
  speed: 'speed',
  auth: 'authentication',
  hosts: 'how many at once',
  voice: 'desk phones',
  guest: 'who does not say',
  rejected: 'who is turned away',
  unanswered: 'no server answers',
  quiet: 'quiet time',
  again: 'asked anew',
  isolated: 'isolation',
  storm: 'storm limit',
  hours: 'hours',
  portal: 'guests',
  group: 'group',
};

/** Every port of a site’s switches and gateways, and the sockets of its APs. */
export function portRows(site: SitePart, roster: readonly RosterDevice[], views: readonly DeviceView[]): PortRow[] {
  const names = new Map(site.segments.map((segment) => [segment.id, segment.name]));
  const facts = new Map(views.map((view) => [view.id, view]));
  return roster.flatMap((device) => {
    const sheet = sheetFor(device);
    const view = facts.get(device.id);
    return sheet.ports
      .filter((port) => !isUplink(site, device, port) && !(sheet.kind === 'ap' && sheet.ports.length === 1))
      .map(({ name: port, poe }): PortRow => {
        const setting = portSetting(site, device, port);
        const fact = view?.portFacts.find((each) => each.port === port);
        const uplink = isApUplink(sheet, port);
        const asks = setting.auth !== 'none';
        const nameOf = (id: string): string => (id === AIRED ? 'those of the SSIDs' : (names.get(id) ?? '?'));
        return {
          key: `${device.id} ${port}`,
          device,
          port,
          setting,
          duty: site.duties?.find((duty) => duty.id === setting.dutyId)?.name ?? '',
          exceptions: exceptionsOf(site, device, port).map((key) => SAID[key] ?? key),
          untagged: asks
            ? setting.auth === 'mac' || setting.untagged === null
              ? 'by who it is'
              : `by who it is, else ${nameOf(setting.untagged)}`
            : setting.untagged === null
              ? ''
              : nameOf(setting.untagged),
          tagged: asks
            ? ''
            : uplink
              ? 'as its SSIDs need'
              : setting.tagged === 'all'
                ? 'all'
                : setting.tagged.map(nameOf).join(', '),
          peer: view?.neighbours.find((each) => each.port === port)?.name ?? '',
          up: fact?.up ?? null,
          speed: fact?.speed ?? null,
          watts: fact?.watts ?? null,
          mostWatts: poe ?? null,
          locked: uplink ? 'What the AP itself hangs on follows from its SSIDs.' : '',
        };
      });
  });
}
