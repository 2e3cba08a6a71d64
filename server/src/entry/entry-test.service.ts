import { randomBytes, randomUUID } from 'node:crypto';
import { outcomeOf, type EntryTest, type EntryTestRequest } from '@iron-lattice/core/entry';
import { resolve, type EstatePart, type RadiusServer } from '@iron-lattice/core/intent';
import type { AskedServer } from '@iron-lattice/core/radius';
import type { DraftService } from '../intent/draft.service';
import type { SecretService } from '../intent/secret.service';
import type { CommandService } from '../line/command.service';
import { AppError, unknown } from '../platform/app-error';
import type { AskingDevices } from './answering/asking-devices';
import type { CertificateService } from './certificates/certificate.service';

/** Steps of one conversation that each may take as long as all tries together, and how long a person waits for one, in seconds. */
const MOST_STEPS = 3;
const MOST_SECONDS = 30;

/** Has devices ask RADIUS servers of the draft for somebody, before anybody depends on it. */
export class EntryTestService {
  constructor(
    private readonly drafts: DraftService,
    private readonly secrets: SecretService,
    private readonly commands: CommandService,
    private readonly asking: AskingDevices,
    private readonly certificates: CertificateService,
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
    const tries = Math.max(1, Math.min(server.tries, Math.floor(MOST_SECONDS / server.timeout)));
    const secret = server.own
      ? await this.drawn(device.id, intent.estate, site.id)
      : await this.secrets.openOne(server.secret.secret);
    const told: AskedServer = {
      ...(server.own ? { own: true as const } : {}),
      ...{ name: server.name, address: server.address, port: server.port },
      ...{ timeout: server.timeout, tries, macs: server.macs ?? 'none_lower' },
      secret,
      ...(server.unsigned ? { unsigned: true as const } : {}),
      ...(await this.believed(server)),
    };
    const through = server.source === 'gateway' ? { through: site.management.gateway } : {};
    const answer = await this.commands.ask(deviceId, 'authenticate', '', {
      entry: { server: told, asked, ...through },
      seconds: server.timeout * tries * MOST_STEPS,
    });
    if (!answer.exchange) throw new AppError('command.refused', answer.text);
    return { exchange: answer.exchange, outcome: outcomeOf(answer.exchange, server, site) };
  }

  /** By which authority, and under which name, a server is believed. */
  private async believed({
    own,
    authority,
    certificateName,
  }: RadiusServer): Promise<Pick<AskedServer, 'authority' | 'certificateName'>> {
    if (own) {
      const shown = await this.certificates.own();
      return { authority: shown.authority.cert, certificateName: shown.name };
    }
    return {
      ...(authority ? { authority } : {}),
      ...(authority && certificateName ? { certificateName } : {}),
    };
  }

  /** The controller itself is tried with a secret of its own, and the draft’s classes: what is live, and devices use, is not touched. */
  private async drawn(deviceId: string, estate: EstatePart, siteId: string): Promise<string> {
    const secret = randomBytes(24).toString('base64url');
    await this.asking.tryOut(randomUUID(), deviceId, secret, estate, siteId);
    return secret;
  }
}
