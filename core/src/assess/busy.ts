import { leavingSetting, shapeOf, uplinkSettings, weightOf, type ResolvedSite, type RosterDevice } from '../intent';
import { maxMin } from '../traffic';
import { segmentStreams } from './course-streams';

/** What a segment gets of an uplink while every segment that leaves by it is busy. */
export interface BusyPart {
  readonly segmentId: string;
  readonly name: string;
  readonly vlan: number;
  readonly weight: number;
  /** Kilobits a second. */
  readonly down: number;
  readonly up: number;
  /** Whether its own cap gives it less than its part would be. */
  readonly capped: boolean;
}

/**
 * What each segment gets of an uplink that is kept below what it can do: max-min fair by weight (Bertsekas & Gallager §6.5.2), never more than its
 * own cap. Segments leave by an uplink that shares while all are good, or by one that a course of theirs names.
 * @returns null where the uplink is not kept to anything.
 */
export function busyParts(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  device: RosterDevice,
  port: string,
): readonly BusyPart[] | null {
  const settings = uplinkSettings(site, device);
  const setting = settings.find((each) => each.port === port);
  const shape = setting && shapeOf(setting);
  if (!shape) return null;
  const { parts, by } = leavingSetting(site, device);
  const isShared = setting.role === 'shares' && weightOf(setting, by) > 0;
  const courses = new Map((site.courses ?? []).map((each) => [each.id, each]));
  const leaves = segmentStreams(site, roster, device).filter(
    (stream) => (stream.usual && isShared) || stream.courses.some((id) => courses.get(id)!.ports.includes(port)),
  );
  const rows = leaves.flatMap(({ segmentId }) => site.segments.find(({ id }) => id === segmentId) ?? []);
  const weights = rows.map(({ id }) => parts[id] ?? 1);
  const way = (which: 'down' | 'up'): { readonly gets: number[]; readonly free: number[] } => {
    const caps = rows.map(({ caps }) => caps?.all?.[which] ?? Infinity);
    const demands = caps.map((cap) => Math.min(cap, shape[which]));
    return {
      gets: maxMin(shape[which], demands, weights),
      free: maxMin(
        shape[which],
        rows.map(() => shape[which]),
        weights,
      ),
    };
  };
  const [down, up] = [way('down'), way('up')];
  return rows.map(({ id, name, vlan }, i) => ({
    ...{ segmentId: id, name, vlan, weight: weights[i]! },
    ...{ down: Math.round(down.gets[i]!), up: Math.round(up.gets[i]!) },
    capped: down.gets[i]! < down.free[i]! - 1 || up.gets[i]! < up.free[i]! - 1,
  }));
}
