import type { PathReport, Report } from '@iron-lattice/core/line';
import type { Speaker } from '../line/line-listener';
import type { HitchService } from './hitch.service';

/** Uplinks of a report that have a link, or had one, and no address: each with why. */
const lacking = (uplinks: readonly PathReport[]): string =>
  uplinks
    .flatMap(({ port, state, why }) =>
      state === 'none' ? [`${port} (${why?.replace(/\.$/, '') ?? 'nobody says why'})`] : [],
    )
    .join(', ');

/** Lists gateways of which an uplink has no address, until it has one. */
export class UplinksWithoutAddress {
  /** What each gateway told last, so that what it goes on to tell is no news. */
  private readonly told = new Map<string, string>();

  constructor(private readonly hitches: Pick<HitchService, 'raise' | 'settle'>) {}

  async reported({ deviceId, serial }: Speaker, { paths }: Pick<Report, 'paths'>): Promise<void> {
    if (!paths) return;
    const ports = lacking(paths.uplinks);
    if (this.told.get(deviceId) === ports) return;
    this.told.set(deviceId, ports);
    if (ports === '') return this.hitches.settle('uplink', serial);
    await this.hitches.raise('uplink', { serial, deviceId }, `An uplink has no address: ${ports}.`);
  }

  /** Its line ended: what it tells next is news again. */
  forget(deviceId: string): void {
    this.told.delete(deviceId);
  }
}
