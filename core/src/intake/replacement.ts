import { sheetFor, type HardwareSheet, type Modelled } from '../hardware';
import type { Link, SitePart } from '../intent';

/** What is lost, or only different, when another box takes a device's place. */
export interface ReplacementLoss {
  readonly code: 'kind' | 'ports' | 'band' | 'poe' | 'speed' | 'ssids' | 'holds';
  /** `refused`: it cannot be done at all. */
  readonly severity: 'refused' | 'warning';
  readonly message: string;
}

/**
 * Compares a box with the one it is to replace: what of the old one's place it could not fill.
 * @param ports the site's settings of the old device's ports, by port name.
 * @param links cables of the old device.
 * @returns empty when nothing would be lost, as for two boxes of one model.
 */
export function replacementLosses(
  old: Modelled & { readonly id: string },
  box: Modelled,
  ports: SitePart['ports'][string] | undefined,
  links: readonly Link[],
): ReplacementLoss[] {
  const [before, after] = [sheetFor(old), sheetFor(box)];
  if (before.kind !== after.kind)
    return [
      {
        code: 'kind',
        severity: 'refused',
        message: `${KIND_WORDS[after.kind].replace(/^./, (first) => first.toUpperCase())} cannot take the place of ${KIND_WORDS[before.kind]}.`,
      },
    ];
  if (before.model === after.model) return [];
  const cabled = new Set(
    links.flatMap(({ a, b }) => [a, b].filter((end) => end.deviceId === old.id).map((end) => end.port)),
  );
  const losses: ReplacementLoss[] = [];
  const gone = before.ports
    .filter((port) => !after.ports.some((each) => each.name === port.name))
    .map((port) => port.name);
  if (gone.length > 0) {
    const used = gone.filter((name) => cabled.has(name) || ports?.[name] !== undefined);
    const uses =
      used.length > 0 ? ` In use: ${used.join(', ')}; what is set there would be lost.` : ' None of them is in use.';
    losses.push({
      code: 'ports',
      severity: 'warning',
      message: `It has ${after.ports.length} ports, not ${before.ports.length}: ${ranges(gone)} would be missing.${uses}`,
    });
  }
  for (const { band } of before.radios)
    if (!after.radios.some((radio) => radio.band === band))
      losses.push({
        code: 'band',
        severity: 'warning',
        message: `It has no ${band} GHz radio: SSIDs there are not sent any more.`,
      });
  const [had, has] = [poeOf(before), poeOf(after)];
  if (has.watts < had.watts) {
    const each =
      has.ports < had.ports ? `${has.ports} PoE ports, not ${had.ports}` : `${has.most} W a port, not ${had.most} W`;
    losses.push({
      code: 'poe',
      severity: 'warning',
      message: `It gives less power: ${each}. What draws power from it may stay dark.`,
    });
  }
  const slower = before.ports.filter((port) => {
    const other = after.ports.find((each) => each.name === port.name);
    return other && other.speed < port.speed;
  });
  if (slower.length > 0)
    losses.push({
      code: 'speed',
      severity: 'warning',
      message: `Ports ${ranges(slower.map((port) => port.name))} are slower.`,
    });
  if (after.ssidsPerRadio < before.ssidsPerRadio)
    losses.push({
      code: 'ssids',
      severity: 'warning',
      message: `It sends ${after.ssidsPerRadio} SSIDs a radio at most, not ${before.ssidsPerRadio}.`,
    });
  const less = HOLDS.flatMap(([field, what]) => {
    const [has, had] = [after[field] ?? Infinity, before[field] ?? Infinity];
    return has < had ? [`${has} ${what}, not ${had === Infinity ? 'any number' : had}`] : [];
  });
  if (less.length > 0)
    losses.push({ code: 'holds', severity: 'warning', message: `It holds less: ${less.join('; ')}.` });
  return losses;
}

/** What a box holds so many of. */
const HOLDS = [
  ['vlans', 'VLANs'],
  ['pooled', 'segments in a pool'],
  ['knownClients', 'clients known by MAC address'],
  ['groups', 'groups of ports'],
  ['rules', 'rules a list'],
] as const satisfies readonly (readonly [keyof HardwareSheet, string])[];

const KIND_WORDS = { gateway: 'a gateway', switch: 'a switch', ap: 'an access point' } as const;

function poeOf(sheet: HardwareSheet): { ports: number; watts: number; most: number } {
  const watts = sheet.ports.flatMap((port) => (port.poe === undefined ? [] : [port.poe]));
  return { ports: watts.length, watts: watts.reduce((sum, each) => sum + each, 0), most: Math.max(0, ...watts) };
}

/** `9–24` for nine to twenty-four in a row. */
function ranges(names: readonly string[]): string {
  const runs: string[][] = [];
  for (const name of names) {
    const run = runs.at(-1);
    const last = run?.at(-1);
    if (run && last !== undefined && /^\d+$/.test(name) && Number(name) === Number(last) + 1) run.push(name);
    else runs.push([name]);
  }
  return runs.map((run) => (run.length > 2 ? `${run[0]}–${run.at(-1)}` : run.join(', '))).join(', ');
}
