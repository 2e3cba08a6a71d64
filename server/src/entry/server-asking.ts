import { randomBytes, randomUUID } from 'node:crypto';
import type { AskedOne } from '@iron-lattice/core/bench';
import type { RadiusServerDocument } from '@iron-lattice/core/document';
import { reaches, type EstatePart, type RadiusServer } from '@iron-lattice/core/intent';
import { askingOrder, type AskedFor, type AskedServer, type Exchange } from '@iron-lattice/core/radius';
import type { SecretService } from '../intent/secret.service';
import type { CommandService } from '../line/command.service';
import { AppError } from '../platform/app-error';
import { clock } from '../platform/clock';
import type { EntryQuestion } from '../roster/entry-offer';
import type { AskingDevices } from './answering/asking-devices';
import type { CertificateService } from './certificates/certificate.service';
import type { EndingCertificates } from './certificates/ending-certificates';

/** Steps of one conversation that each may take as long as all tries together, and how long a person waits for one, in seconds. */
const MOST_STEPS = 3;
const MOST_SECONDS = 30;

/** A server to be asked, and where its device stands. */
export interface ServerQuestion {
  readonly deviceId: string;
  readonly siteId: string;
  readonly estate: EstatePart;
  readonly server: Omit<RadiusServerDocument, 'dead' | 'order'>;
  readonly asked: AskedFor;
}

/** Has devices ask RADIUS servers for somebody. What is asked with is kept nowhere. */
export class ServerAsking {
  constructor(
    private readonly secrets: SecretService,
    private readonly commands: CommandService,
    private readonly asking: AskingDevices,
    private readonly certificates: CertificateService,
    private readonly ending: EndingCertificates,
  ) {}

  /**
   * Has a device ask one server. @param seconds that are waited for at most.
   * @throws AppError where the device cannot be asked.
   */
  async ask(question: ServerQuestion, seconds = MOST_SECONDS): Promise<Exchange> {
    const { deviceId, server, asked } = question;
    const { own, name, address, port, timeout, macs = 'none_lower', unsigned, through } = server;
    const tries = Math.max(1, Math.min(server.tries, Math.floor(seconds / timeout)));
    const secret = own ? await this.drawn(question) : await this.secrets.openOne(server.secret.secret);
    const told: AskedServer = {
      ...(own ? { own } : {}),
      ...{ name, address, port, timeout, tries, macs, secret },
      ...(unsigned ? { unsigned } : {}),
      ...(await this.believed(question)),
    };
    const entry = { server: told, asked, ...(through === undefined ? {} : { through }) };
    const more = { entry, seconds: timeout * tries * MOST_STEPS };
    const answer = await this.commands.ask(deviceId, 'authenticate', '', more);
    const { exchange } = answer;
    if (!exchange) throw new AppError('command.refused', answer.text);
    if (exchange.certificate && !own) {
      const known = serverNamed(question.estate, question.siteId, name);
      if (known) await this.ending.shown(known.id, exchange.certificate);
    }
    return exchange;
  }

  /** Has a device ask its servers in their order, until one says yes or no; who is dead is found out anew. */
  async askAll({ radius, asked, ...where }: EntryQuestion): Promise<AskedOne[]> {
    const said: AskedOne[] = [];
    const began = clock.now();
    for (const server of askingOrder(radius.servers, new Map(), began, 0)) {
      const left = MOST_SECONDS - (clock.now() - began) / 1000;
      // The controller keeps no keys at its server.
      if (asked.method === 'mac' && (server.macs === undefined || (asked.gives !== undefined && server.own))) continue;
      if (left < server.timeout) break;
      const exchange = await this.ask({ ...where, server, asked }, left);
      said.push({ server: server.name, exchange });
      if (['accepted', 'rejected', 'untrusted', 'other-method'].includes(exchange.end)) break;
    }
    return said;
  }

  /** By which authority, and under which name, a server is believed. */
  private async believed({
    server: { own, name },
    estate,
    siteId,
  }: ServerQuestion): Promise<Pick<AskedServer, 'authority' | 'certificateName'>> {
    if (own) {
      const shown = await this.certificates.own();
      return { authority: shown.authority.cert, certificateName: shown.name };
    }
    const { authority, certificateName } = serverNamed(estate, siteId, name) ?? {};
    return {
      ...(authority ? { authority } : {}),
      ...(authority && certificateName ? { certificateName } : {}),
    };
  }

  /** The controller itself is tried with a secret of its own, and the draft’s classes: what is live, and devices use, is not touched. */
  private async drawn({ deviceId, estate, siteId }: ServerQuestion): Promise<string> {
    const secret = randomBytes(24).toString('base64url');
    await this.asking.tryOut(randomUUID(), deviceId, secret, estate, siteId);
    return secret;
  }
}

/** A server that reaches a site, by its name there. */
const serverNamed = (estate: EstatePart, siteId: string, name: string): RadiusServer | undefined =>
  estate.radius?.find((each) => each.name === name && reaches(each.reach, siteId));
