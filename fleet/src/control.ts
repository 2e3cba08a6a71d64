import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Joi } from '@iron-lattice/core/schema';
import { fingerprintOf } from './devices/device-store';
import { OwnPage } from './devices/own-page';
import type { Fleet } from './fleet';
import type { Page } from './phone';
import { ISSUER_PATH } from './accounts/issuer';
import { caughtPage } from './mail/caught-page';
import { TEXT_KEY } from './mail/text-catcher';
import { LDAP_MOODS, type LdapMood } from './ldap/stand-in-directory';
import { MOODS, type Mood } from './radius/stand-in';
import type { Certified } from './ldap/certified';
import type { Enters } from './world/enters';
import { farChangeShape, type FarChange } from './paths/far-gateways';
import type { Weather } from './paths/providers';
import { entersShape } from './world/world-file';
import type { WorldRouter } from './world/world-router';

type Command =
  | { do: 'power'; serial: string; on: boolean }
  | { do: 'refuse'; serial: string; reason: string | null }
  | { do: 'wrong-key'; serial: string; on: boolean }
  | { do: 'provider'; name: string; up: boolean }
  /** How a provider fares: whether anything gets through, share lost, milliseconds longer and varying, addresses that do not answer. */
  | ({ do: 'fares'; name: string } & Partial<Weather>)
  | { do: 'stumble'; serial: string }
  | { do: 'clock'; serial: string; off: number | null }
  | { do: 'fail-update'; serial: string; reason: string | null }
  /** Changes a port at the box itself. */
  | { do: 'by-hand'; serial: string; port: string; untagged?: number | null; tagged?: number[]; storm?: number }
  | { do: 'strange-document'; serial: string; hash: string | null }
  /** Radar is heard where an AP stands. */
  | { do: 'radar'; serial: string }
  /** What part of the time that radios are to wait they really do: tests have less. */
  | { do: 'hurry'; share: number }
  /** The cables of a box are pulled out, or put back. */
  | { do: 'pull'; serial: string; out: boolean }
  /** A client walks to another AP. */
  | { do: 'walk'; mac: string; serial: string }
  /** A client is told to look for a network, and what to give there. */
  | { do: 'look-for'; mac: string; ssid: string; passphrase?: string; enters?: Enters }
  /** Something that is no device of ours is plugged in at a port, `SERIAL:port`; at none it is pulled out. */
  | { do: 'plug'; mac: string; at: string | null; name?: string; enters?: Enters }
  /** A client sends nothing any more, or again. */
  | { do: 'hush'; mac: string; on: boolean }
  /** Clients who say that they are a user show a certificate that somebody else made for it, as PEM; none: that of the world again. */
  | { do: 'carry'; user: string; certificate: Certified | null }
  /** A RADIUS server of the world misbehaves, or no more. */
  | { do: 'radius'; name: string; mood: Mood | null }
  /** The directory of the world misbehaves, or no more. */
  | { do: 'directory'; mood: LdapMood | null }
  /** A gateway of others was told something else. */
  | { do: 'far'; name: string; change: FarChange }
  /** A router of somebody else’s does otherwise than before. */
  | ({ do: 'router'; name: string; on?: boolean } & Pick<Partial<WorldRouter>, 'onward' | 'stops'>)
  /** Puts one box where another stands: the cables go over, the other is switched off. */
  | { do: 'take-place'; serial: string; of: string };

const FROM_FAR = /^\/from-far\/([\w-]+)\/([\d.]+)\/([\d.]+)\/(tcp|udp)\/(\d{1,5})$/;
const KNOCK = /^\/knock\/([\d.]+)\/([\d.]+)\/(tcp|udp)\/(\d{1,5})$/;
const serial = Joi.string().required();
const pem = Joi.string().required().meta({ lines: true });
const on = Joi.boolean().required();
const schema = Joi.alternatives(
  Joi.object({ do: Joi.valid('power', 'wrong-key').required(), serial, on }),
  Joi.object({ do: Joi.valid('refuse').required(), serial, reason: Joi.string().allow(null).required() }),
  Joi.object({ do: Joi.valid('stumble').required(), serial }),
  Joi.object({ do: Joi.valid('clock').required(), serial, off: Joi.number().allow(null).required() }),
  Joi.object({ do: Joi.valid('fail-update').required(), serial, reason: Joi.string().allow(null).required() }),
  Joi.object({ do: Joi.valid('strange-document').required(), serial, hash: Joi.string().hex().allow(null).required() }),
  Joi.object({
    do: Joi.valid('by-hand').required(),
    serial,
    port: Joi.string().required(),
    untagged: Joi.number().allow(null),
    tagged: Joi.array().items(Joi.number()),
    storm: Joi.number(),
  }),
  Joi.object({ do: Joi.valid('radar').required(), serial }),
  Joi.object({ do: Joi.valid('hurry').required(), share: Joi.number().min(0).max(1).required() }),
  Joi.object({ do: Joi.valid('pull').required(), serial, out: Joi.boolean().required() }),
  Joi.object({ do: Joi.valid('walk').required(), serial, mac: Joi.string().required() }),
  Joi.object({
    do: Joi.valid('look-for').required(),
    mac: Joi.string().required(),
    ssid: Joi.string().required(),
    passphrase: Joi.string(),
    enters: entersShape,
  }),
  Joi.object({
    do: Joi.valid('plug').required(),
    mac: Joi.string().required(),
    at: Joi.string().allow(null).required(),
    name: Joi.string().hostname(),
    enters: entersShape,
  }),
  Joi.object({ do: Joi.valid('hush').required(), mac: Joi.string().required(), on }),
  Joi.object({
    do: Joi.valid('carry').required(),
    user: Joi.string().max(253).required(),
    certificate: Joi.object({ cert: pem, key: pem }).allow(null).required(),
  }),
  Joi.object({
    do: Joi.valid('radius').required(),
    name: Joi.string().required(),
    mood: Joi.valid(...MOODS, null).required(),
  }),
  Joi.object({ do: Joi.valid('directory').required(), mood: Joi.valid(...LDAP_MOODS, null).required() }),
  Joi.object({ do: Joi.valid('take-place').required(), serial, of: serial }),
  Joi.object({
    do: Joi.valid('router').required(),
    name: Joi.string().required(),
    on: Joi.boolean(),
    onward: Joi.string().ip(),
    stops: Joi.array().items(Joi.string().max(200)).max(100),
  }),
  Joi.object({ do: Joi.valid('far').required(), name: Joi.string().required(), change: farChangeShape.required() }),
  Joi.object({
    do: Joi.valid('fares').required(),
    name: Joi.string().required(),
    up: Joi.boolean(),
    silent: Joi.boolean(),
    loss: Joi.number().min(0).max(1),
    delay: Joi.number().min(0).max(60_000),
    jitter: Joi.number().min(0).max(60_000),
    gone: Joi.array().items(Joi.string().ip()),
  }),
  Joi.object({ do: Joi.valid('provider').required(), name: Joi.string().required(), up: Joi.boolean().required() }),
);

/**
 * The fleet's own switchboard on loopback: `GET /` says what every device does, `GET /radius` what its RADIUS servers were asked,
 * `GET /directory` where its directory listens and by which authority it is believed,
 * `GET /as/MAC/http://HOST/PATH` asks for a page as a client’s browser would,
 * `GET /lease/MAC` what a client was given by DHCP, `GET /window/MAC` what the small window opens with by which phones tell that they are held,
 * `/box/SERIAL` is a gateway’s own page, as one sees it who sits beside it,
 * `GET /knock/FROM/TO/tcp/443` what somebody outside gets that asks for something at an address,
 * `GET /from-far/NAME/FROM/TO/tcp/443` what somebody gets who is behind a gateway of others,
 * `GET /mail` what mail came, and where it is taken (TCP), `POST /texts` takes a text message as a gateway does, `GET /texts` what came,
 * `GET /mailbox` a page to read both, `/accounts` is where people have accounts elsewhere (OpenID Connect),
 * `GET /changes` at which UDP port servers end and change sessions of any of them,
 * `POST /` tells one to misbehave.
 * @param port 0 for any.
 */
export function listenForControl(fleet: Fleet, port: number): Promise<Server> {
  const server = createServer((request, response) => {
    const chunks: Buffer[] = [];
    request.on('data', (chunk: Buffer) => chunks.push(chunk));
    request.on('end', () => {
      const reply = (status: number, body: unknown): void => {
        response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
      };
      const browse = ({ status, location, text }: Page): void => {
        const head = { 'content-type': 'text/plain; charset=utf-8', ...(location ? { location } : {}) };
        response.writeHead(status || 504, head).end(text);
      };
      try {
        if (request.url?.startsWith(`${ISSUER_PATH}/`)) {
          const origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
          void fleet.accounts.answer(origin, request.url, Buffer.concat(chunks)).then(
            ({ status, type, body, location }) =>
              response
                .writeHead(status, {
                  ...{ 'content-type': type, 'cache-control': 'no-store' },
                  ...(location === undefined ? {} : { location }),
                })
                .end(body),
            (error: unknown) => reply(400, { error: String(error) }),
          );
          return;
        }
        const [, of] = /^\/box\/([0-9A-Z-]+)$/.exec(request.url ?? '') ?? [];
        if (of !== undefined) return showOwnPage(fleet, of, request, response, Buffer.concat(chunks));
        if (request.method === 'POST' && request.url === '/texts') {
          const { [TEXT_KEY.header]: key, 'content-type': type = '' } = request.headers;
          const { status, words } = fleet.texts.take(key?.toString(), type, Buffer.concat(chunks));
          return reply(status, { words });
        }
        if (request.method === 'POST') {
          const checked = schema.validate(JSON.parse(Buffer.concat(chunks).toString()));
          if (checked.error) return reply(400, { error: checked.error.message });
          carryOut(fleet, checked.value as Command);
        }
        const [, mac, page] = /^\/as\/([0-9a-f:]{17})\/(https?:\/\/.*)$/.exec(request.url ?? '') ?? [];
        if (mac !== undefined && page !== undefined) return browse(fleet.open(mac, page));
        const [, leased] = /^\/lease\/([0-9a-f:]{17})$/.exec(request.url ?? '') ?? [];
        if (leased !== undefined) return reply(200, fleet.leaseOf(leased));
        const [, looks] = /^\/window\/([0-9a-f:]{17})$/.exec(request.url ?? '') ?? [];
        if (looks !== undefined) return reply(200, { opens: fleet.windowOf(looks) });
        const [, from, target, protocol, number] = KNOCK.exec(request.url ?? '') ?? [];
        if (from !== undefined)
          return reply(
            200,
            fleet.world.knock(from, target!, { protocol: protocol as 'tcp' | 'udp', port: Number(number) }),
          );
        const [, far, behind, inside, by, at] = FROM_FAR.exec(request.url ?? '') ?? [];
        if (far !== undefined) {
          const wanted = { protocol: by as 'tcp' | 'udp', port: Number(at) };
          return reply(200, fleet.world.asking.fromFar(far, behind!, inside!, wanted));
        }
        if (request.url === '/directory')
          return reply(200, { ...fleet.entry.directory?.ports, authority: fleet.entry.authority?.pem });
        if (request.url === '/mail') return reply(200, { port: fleet.mail.port, mails: fleet.mail.all });
        if (request.url === '/texts') return reply(200, { texts: fleet.texts.all });
        if (request.url === '/mailbox') {
          const head = {
            'content-type': 'text/html; charset=utf-8',
            'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'",
          };
          return void response.writeHead(200, head).end(caughtPage(fleet.mail.all, fleet.texts.all));
        }
        if (request.url === '/changes') return reply(200, { port: fleet.entry.changes.port });
        if (request.url === '/radius')
          return reply(
            200,
            fleet.entry.standIns.map(({ server, ports, mood, seen }) => ({
              ...{ name: server.name, address: server.address, ports, mood, seen },
            })),
          );
        reply(
          200,
          [...fleet.devices.values()].map((device) => stateOf(fleet, device.identity.serial)),
        );
      } catch (error) {
        reply(400, { error: String(error) });
      }
    });
  });
  return new Promise((resolve, reject) => {
    server.on('error', reject);
    server.listen(port, '127.0.0.1', () => resolve(server));
  });
}

/** A gateway’s own page, as one sees it who sits beside it. */
function showOwnPage(
  fleet: Fleet,
  serialNumber: string,
  request: IncomingMessage,
  response: ServerResponse,
  body: Buffer,
): void {
  const { 'content-type': type = '', 'sec-fetch-site': site } = request.headers;
  const sent = request.method === 'POST' ? { body: body.toString(), type, site: site?.toString() } : null;
  const page = new OwnPage(fleet.device(serialNumber), fleet.world);
  const { status, location, page: text = '' } = page.answer(request.url!, sent);
  const head = {
    'content-type': 'text/html; charset=utf-8',
    'content-security-policy':
      "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'",
    'cache-control': 'no-store',
    ...(location === undefined ? {} : { location }),
  };
  response.writeHead(status, head).end(text);
}

function carryOut(fleet: Fleet, command: Command): void {
  switch (command.do) {
    case 'fares': {
      const { do: _do, name, ...change } = command;
      return fleet.world.fares(name, change);
    }
    case 'far':
      return fleet.world.paths.far.set(command.name, command.change);
    case 'provider':
      return fleet.world.provider(command.name, command.up);
    case 'power':
      return fleet.power(command.serial, command.on);
    case 'refuse':
      fleet.device(command.serial).mischief.refuse = command.reason ?? undefined;
      return;
    case 'stumble':
      return fleet.device(command.serial).stumble();
    case 'clock':
      fleet.device(command.serial).mischief.clockOff = command.off ?? undefined;
      return fleet.device(command.serial).stumble();
    case 'fail-update':
      fleet.device(command.serial).mischief.failUpdate = command.reason ?? undefined;
      return;
    case 'strange-document':
      fleet.device(command.serial).mischief.strangeDocument = command.hash ?? undefined;
      return fleet.device(command.serial).stumble();
    case 'by-hand': {
      const { do: _do, serial, port, ...change } = command;
      return fleet.device(serial).changeByHand((document) => ({
        ...document,
        ports: document.ports.map((each) => (each.name === port ? { ...each, ...change } : each)),
      }));
    }
    case 'radar':
      if (fleet.world.air.radar(command.serial) === 0)
        throw new Error(`${command.serial} has no radio on a channel shared with radar`);
      return;
    case 'hurry':
      fleet.world.air.hurry = command.share;
      return;
    case 'pull':
      return fleet.world.pull(command.serial, command.out);
    case 'walk':
      return fleet.world.walk(command.mac, command.serial);
    case 'look-for':
      return fleet.world.lookFor(command.mac, command.ssid, {
        ...(command.passphrase === undefined ? {} : { passphrase: command.passphrase }),
        ...(command.enters ? { enters: command.enters } : {}),
      });
    case 'plug': {
      const { do: _do, mac, at, ...client } = command;
      return fleet.world.plug(mac, at === null ? null : { mac, at, ...client });
    }
    case 'hush':
      return fleet.world.hush(command.mac, command.on);
    case 'carry':
      return fleet.entry.carry(command.user, command.certificate);
    case 'radius':
      fleet.entry.standIn(command.name).mood = command.mood;
      return;
    case 'directory':
      if (!fleet.entry.directory) throw new RangeError('no directory in this fleet');
      fleet.entry.directory.mood = command.mood;
      return;
    case 'router': {
      const { do: _do, name, ...change } = command;
      return fleet.world.alter(name, change);
    }
    case 'take-place':
      fleet.power(command.of, false);
      return fleet.world.recable(command.of, command.serial);
    case 'wrong-key':
      fleet.device(command.serial).mischief.wrongKey = command.on;
      fleet.power(command.serial, false); // a new key is seen at the next call
      return fleet.power(command.serial, true);
  }
}

function stateOf(fleet: Fleet, serialNumber: string) {
  const device = fleet.device(serialNumber);
  return {
    serial: serialNumber,
    powered: fleet.world.isPowered(serialNumber),
    reaches: fleet.world.reachesController(serialNumber),
    runs: device.runs,
    firmware: device.firmware,
    fingerprint: fingerprintOf(device.publicKey),
    address: fleet.world.addressOf(serialNumber),
    clients: fleet.world.clientsOf(serialNumber),
    radios: fleet.world.air.reportsOf(serialNumber),
  };
}
