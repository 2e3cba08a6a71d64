import { compareVersions } from './version';

/** One release of the firmware of a model, as the catalogue tells of it. */
export interface FirmwareRelease {
  readonly model: string;
  readonly version: string;
  /** Day it came out, YYYY-MM-DD. */
  readonly releasedOn: string;
  /** What changed, in plain sentences. */
  readonly notes: string;
  /** A device must run this or newer to take it; null when any release will do. */
  readonly minimumPrevious: string | null;
  /** Whether its makers no longer look after it. */
  readonly unsupported: boolean;
  /** Whether a device that runs it can hold this controller's line; one that cannot is only updated. */
  readonly holdsLine: boolean;
}

/** How a device's firmware stands to the catalogue. `unlisted`: the catalogue has no release of its model. */
export type FirmwareState = 'current' | 'older' | 'unsupported' | 'unlisted';

/** The releases of a model, newest first. */
export const releasesOf = <T extends FirmwareRelease>(catalogue: readonly T[], model: string): T[] =>
  catalogue.filter((each) => each.model === model).sort((a, b) => compareVersions(b.version, a.version));

/** The newest release of a model that is looked after. */
export const newestOf = <T extends FirmwareRelease>(catalogue: readonly T[], model: string): T | undefined =>
  releasesOf(catalogue, model).find((each) => !each.unsupported);

/**
 * How what a device runs stands to its model's releases. A release that the catalogue does not list counts as
 * unsupported when it is older than every listed one, else by its number.
 */
export function firmwareState(catalogue: readonly FirmwareRelease[], model: string, running: string): FirmwareState {
  const releases = releasesOf(catalogue, model);
  const newest = newestOf(catalogue, model);
  if (!newest) return releases.length === 0 ? 'unlisted' : 'unsupported';
  const listed = releases.find((each) => compareVersions(each.version, running) === 0);
  if (listed?.unsupported) return 'unsupported';
  if (!listed && compareVersions(running, releases[releases.length - 1]!.version) < 0) return 'unsupported';
  return compareVersions(running, newest.version) < 0 ? 'older' : 'current';
}

/** Whether a device that runs a release can hold the line; a release that is not listed is taken to. */
export function holdsLine(catalogue: readonly FirmwareRelease[], model: string, running: string): boolean {
  const releases = releasesOf(catalogue, model);
  const listed = releases.find((each) => compareVersions(each.version, running) === 0);
  if (listed) return listed.holdsLine;
  const cannot = releases.filter((each) => !each.holdsLine);
  return cannot.every((each) => compareVersions(running, each.version) > 0);
}

/**
 * The releases a device goes through to reach a target, each of which the one before allows; the target last.
 * Takes the longest step it can each time, which needs the fewest.
 * @returns empty when it runs the target already; null when no chain of listed releases leads there.
 */
export function updateSteps<T extends FirmwareRelease>(
  catalogue: readonly T[],
  model: string,
  running: string,
  target: string,
): T[] | null {
  if (compareVersions(running, target) === 0) return [];
  const upwards = releasesOf(catalogue, model)
    .filter((each) => compareVersions(each.version, target) <= 0)
    .reverse();
  const last = upwards.at(-1);
  if (!last || compareVersions(last.version, target) !== 0) return null;
  const allows = (from: string, to: T): boolean =>
    to.minimumPrevious === null || compareVersions(from, to.minimumPrevious) >= 0;
  // Going back is one step, and only where the target takes anything: makers promise no more.
  if (compareVersions(running, target) > 0) return allows(running, last) ? [last] : null;
  const steps: T[] = [];
  for (let at = running; compareVersions(at, target) < 0;) {
    const next = upwards.findLast((each) => compareVersions(each.version, at) > 0 && allows(at, each));
    if (!next) return null;
    steps.push(next);
    at = next.version;
  }
  return steps;
}
