import type { DeviceDocument, Outage } from '../document';
import type { RosterDevice } from '../intent';
import { vlansOfSsid } from '../document';
import type { ToldFirst } from '../rollout';

/** Whom each AP hangs on by radio, by its id. */
type Parents = ReadonlyMap<string, string>;

/** How long an AP looks for its parent at the most once that sends again, in seconds: it listens on each channel it may be on. */
const FIND_SECONDS = 20;

/**
 * Which APs are told before which: one that others start to hang on before them, one that they leave behind after them. Else what
 * an AP hangs on would be gone before it could be told where to go.
 */
export function hangingOrder(now: Parents, then: Parents): ToldFirst[] {
  return [
    ...[...then].map(([child, parent]): ToldFirst => [parent, child]),
    ...[...now].flatMap(([child, parent]): ToldFirst[] => (then.get(child) === parent ? [] : [[child, parent]])),
  ];
}

/** What APs that hang on a device feel of what is away at it, themselves and those on them. */
export function branchOutages(
  device: RosterDevice,
  outages: readonly Outage[],
  now: Parents,
  told: Readonly<Record<string, DeviceDocument>>,
): Outage[] {
  const children = [...now].flatMap(([child, parent]) => (parent === device.id ? [child] : []));
  const felt = new Map<string, number | null>();
  for (const child of children) {
    const document = told[child];
    const band = document?.kind === 'ap' ? document.mesh?.hang?.band : undefined;
    for (const { what, where, seconds } of outages)
      if (what === 'device' || (what === 'radio' && band !== undefined && where.includes(band)))
        for (const id of branchOf(child, now)) felt.set(id, longer(felt.get(id), seconds));
  }
  const spans = [...new Set(felt.values())];
  return spans.map((seconds): Outage => {
    const ids = [...felt].flatMap(([id, each]) => (each === seconds ? [id] : []));
    const documents = ids.flatMap((id) => told[id] ?? []);
    const vlans = documents.flatMap((each) =>
      each.kind === 'ap' ? each.ssids.flatMap((ssid) => vlansOfSsid(ssid, each)) : [],
    );
    return {
      what: 'branch',
      where: documents.map((each) => each.device.name).sort(),
      vlans: [...new Set(vlans)].sort((a, b) => a - b),
      seconds,
    };
  });
}

const longer = (known: number | null | undefined, seconds: number | null): number | null =>
  known === null || seconds === null ? null : Math.max(known ?? 0, seconds + FIND_SECONDS);

/** An AP and all that hang on it, near or far. */
function branchOf(id: string, now: Parents): ReadonlySet<string> {
  const found = new Set([id]);
  for (const each of found) for (const [child, parent] of now) if (parent === each) found.add(child);
  return found;
}
