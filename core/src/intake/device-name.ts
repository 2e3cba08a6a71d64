import { flaw, type Flaw } from '../base';
import { sheetFor, type DeviceKind, type Modelled } from '../hardware';

/** Short forms of device kinds in names. */
export const KIND_SHORT: Readonly<Record<DeviceKind, string>> = { gateway: 'gw', switch: 'sw', ap: 'ap' };

/**
 * Names devices by the convention `{site}-{kind}-{nn}` with the lowest free numbers, in the order given.
 * @param taken names in use in the estate.
 */
export function nameDevices(code: string, devices: readonly Modelled[], taken: Iterable<string>): string[] {
  const used = new Set(taken);
  const next = new Map<string, number>(); // so that a thousand names do not count from 1 a thousand times
  return devices.map((device) => {
    const stem = `${code}-${KIND_SHORT[sheetFor(device).kind]}`;
    let number = next.get(stem) ?? 1;
    while (used.has(nameWith(stem, number))) number++;
    next.set(stem, number + 1);
    const name = nameWith(stem, number);
    used.add(name);
    return name;
  });
}

const nameWith = (stem: string, number: number): string => `${stem}-${String(number).padStart(2, '0')}`;

/**
 * Checks a name that somebody types for a device: a host name of one label (RFC 1123 §2.1), so that it can stand in
 * DNS and in LLDP as it is.
 * @param holder who in the estate has the name already; undefined when nobody does.
 */
export function checkDeviceName(name: string, holder: string | undefined): Flaw[] {
  if (name === '') return [flaw('device.name-empty', 'Give the device a name.', 'name')];
  if (!/^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$/.test(name))
    return [
      flaw('device.name', 'A name has 1 to 63 small letters, digits and hyphens, with no hyphen at its ends.', 'name'),
    ];
  return holder === undefined ? [] : [flaw('device.name-taken', `“${name}” is already the name of ${holder}.`, 'name')];
}
