import { requireSheet, type DeviceKind } from '../hardware';

/** Short forms of device kinds in names. */
export const KIND_SHORT: Readonly<Record<DeviceKind, string>> = { gateway: 'gw', switch: 'sw', ap: 'ap' };

/**
 * Names devices by the convention `{site}-{kind}-{nn}` with the lowest free numbers, in the order given.
 * @param taken names in use in the estate.
 */
export function nameDevices(code: string, models: readonly string[], taken: Iterable<string>): string[] {
  const used = new Set(taken);
  return models.map((model) => {
    const stem = `${code}-${KIND_SHORT[requireSheet(model).kind]}`;
    let number = 1;
    while (used.has(nameWith(stem, number))) number++;
    const name = nameWith(stem, number);
    used.add(name);
    return name;
  });
}

const nameWith = (stem: string, number: number): string => `${stem}-${String(number).padStart(2, '0')}`;
