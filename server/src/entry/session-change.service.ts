import { randomBytes } from 'node:crypto';
import type { SessionChanged, SessionChangeRequest } from '@iron-lattice/core/entry';
import { resolve, type RadiusServer } from '@iron-lattice/core/intent';
import { changeAnswer, changeRequest, octetsOfText } from '@iron-lattice/core/radius';
import type { IntentService } from '../intent/intent.service';
import type { SecretService } from '../intent/secret.service';
import type { CommandService } from '../line/command.service';
import { AppError, unknown } from '../platform/app-error';
import { clock } from '../platform/clock';

/** Ends sessions and changes their class, as the server does that let somebody in (RFC 5176). */
export class SessionChangeService {
  constructor(
    private readonly intents: IntentService,
    private readonly secrets: SecretService,
    private readonly commands: CommandService,
  ) {}

  /**
   * Has a device end a session, or put it into another class. Whom no server let in is sent away by a plain word: its class is by a list.
   * @throws AppError where the device cannot be asked, or nobody is there.
   */
  async change(deviceId: string, { mac, classId }: SessionChangeRequest, personId: string): Promise<SessionChanged> {
    const device = await this.commands.reachable(deviceId);
    const { report } = device;
    const there = [...(report?.clients ?? []), ...(report?.wired ?? [])].find((each) => each.mac === mac);
    if (!there) throw new AppError('command.refused', `${mac} is not at ${device.name} any more.`);
    const live = await this.intents.live();
    const pair = live.pairs.get(device.siteId!);
    if (!pair) throw unknown('site');
    const site = resolve(pair.estate, pair.site);
    const accessClass = classId === null ? null : site.accessClasses.find(({ id }) => id === classId);
    if (accessClass === undefined) throw unknown('class that is rolled out here');
    const keyedBy = 'keyedBy' in there ? there.keyedBy : undefined;
    if (keyedBy !== undefined && accessClass)
      throw new AppError('command.refused', `The key that ${mac} gave says its segment: “${keyedBy}” names it.`);
    const by = there.entered?.server ?? there.named?.server ?? keyedBy;
    const server = site.radiusServers.find(({ name }) => name === by);
    if (server)
      return this.asked(deviceId, device.name!, server, {
        ...{ mac, user: there.entered?.user ?? null, className: accessClass?.name ?? null, personId },
      });
    if (accessClass)
      throw new AppError(
        'command.refused',
        `No server let ${mac} in: its class is by its MAC address, which a class lists.`,
      );
    const { ok, text } = await this.commands.ask(deviceId, 'disconnect', mac, { personId });
    return { ok, words: ok ? '' : text, server: null, packets: [] };
  }

  private async asked(
    deviceId: string,
    device: string,
    server: RadiusServer,
    { personId, ...wanted }: { mac: string; user: string | null; className: string | null; personId: string },
  ): Promise<SessionChanged> {
    const secret = octetsOfText(await this.secrets.openOne(server.secret.secret));
    const request = changeRequest({ device, ...wanted }, randomBytes(1)[0]!, secret, clock.now() / 1000);
    const began = performance.now();
    const octets = Buffer.from(request.bytes).toString('base64');
    const target = wanted.className === null ? wanted.mac : `${wanted.mac}: ${wanted.className}`;
    const answer = await this.commands.ask(deviceId, 'session', target, { personId, octets });
    if (answer.octets === undefined)
      return { ok: false, words: answer.text, server: server.name, packets: [request.packet] };
    const ms = Math.round(performance.now() - began);
    const said = changeAnswer(new Uint8Array(Buffer.from(answer.octets, 'base64')), request, secret, ms);
    return {
      ...{ ok: said.ok, words: said.words, server: server.name },
      packets: said.packet ? [request.packet, said.packet] : [request.packet],
    };
  }
}
