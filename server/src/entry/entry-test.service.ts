import { outcomeOf, type EntryTest, type EntryTestRequest } from '@iron-lattice/core/entry';
import { resolve } from '@iron-lattice/core/intent';
import { serverDocument } from '@iron-lattice/core/rollout';
import type { DraftService } from '../intent/draft.service';
import type { CommandService } from '../line/command.service';
import { AppError, unknown } from '../platform/app-error';
import type { ServerAsking } from './server-asking';

/** Has devices ask RADIUS servers of the draft for somebody, before anybody depends on it. */
export class EntryTestService {
  constructor(
    private readonly drafts: DraftService,
    private readonly commands: CommandService,
    private readonly asking: ServerAsking,
  ) {}

  /**
   * Has a device ask a server of a draft. What is asked with is kept nowhere.
   * @throws AppError where the server is not there, does not reach the device's site, or the device cannot be asked.
   */
  async test(draftId: string, radiusId: string, { deviceId, ...asked }: EntryTestRequest): Promise<EntryTest> {
    const device = await this.commands.reachable(deviceId);
    const { intent } = await this.drafts.open(draftId);
    const server = intent.estate.radius?.find(({ id }) => id === radiusId);
    const part = intent.sites.get(device.siteId!);
    if (!server || !part) throw unknown('RADIUS server');
    const site = resolve(intent.estate, part);
    if (!site.radiusServers.some(({ id }) => id === radiusId))
      throw new AppError('command.refused', `“${server.name}” does not reach ${site.name}: nobody there would ask it.`);
    if (asked.method === 'mac' && server.macs === null)
      throw new AppError(
        'command.refused',
        `“${server.name}” is not asked about MAC addresses. Say how it wants them first.`,
      );
    const told = serverDocument(server, site.management.gateway);
    const where = { deviceId, siteId: site.id, estate: intent.estate };
    const exchange = await this.asking.ask({ ...where, server: told, asked });
    return { exchange, outcome: outcomeOf(exchange, server, site) };
  }
}
