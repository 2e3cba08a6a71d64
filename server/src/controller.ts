import { chmodSync, closeSync, openSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { pino, type Logger } from 'pino';
import type { Sequelize } from 'sequelize';
import { walkRoutes } from './bench/walk.routes';
import { seatRoutes } from './bench/seat.routes';
import { SeatService } from './bench/seat.service';
import { WalkService } from './bench/walk.service';
import { CatalogueService } from './firmware/catalogue.service';
import { defineFirmware } from './firmware/firmware.model';
import { firmwareRoutes } from './firmware/firmware.routes';
import { UPDATE_LEASE, UpdateRunner } from './firmware/update-runner';
import { UpdateService } from './firmware/update.service';
import { housekeepingOf } from './intake/housekeeping';
import { CablingService } from './intake/cabling.service';
import { ClaimService } from './intake/claim.service';
import { DeviceChangeService } from './intake/device-change.service';
import { DeviceRowReader } from './intake/device-rows';
import { defineDevices } from './intake/device.model';
import { deviceRoutes } from './intake/device.routes';
import { DeviceService } from './intake/device.service';
import { defineHitches } from './intake/hitch.model';
import { hitchRoutes } from './intake/hitch.routes';
import { HitchService } from './intake/hitch.service';
import { listRoutes } from './intake/list.routes';
import { ListService } from './intake/list.service';
import { placeRoutes } from './intake/place.routes';
import { PlaceService } from './intake/place.service';
import { RosterService } from './intake/roster.service';
import { siteRoutes } from './intake/site.routes';
import { SheetService } from './intake/sheet.service';
import { SiteService } from './intake/site.service';
import { sweepRoutes } from './intake/sweep.routes';
import { SweepService } from './intake/sweep.service';
import { draftRoutes } from './intent/draft.routes';
import { latticeRoutes } from './lattice/lattice.routes';
import { LatticeService } from './lattice/lattice.service';
import { DraftService } from './intent/draft.service';
import { defineIntent, SecretRow } from './intent/intent.model';
import { IntentService } from './intent/intent.service';
import { SecretService } from './intent/secret.service';
import { UndoService } from './intent/undo.service';
import { CallCheck } from './line/call-check';
import { commandRoutes } from './line/command.routes';
import { CommandService } from './line/command.service';
import { LineService } from './line/line.service';
import { Bus } from './platform/bus';
import type { Config } from './platform/config';
import { connect, poolOf } from './platform/database';
import { eventStreamRoutes } from './platform/event-stream.routes';
import { Heavy } from './platform/heavy';
import { httpApp } from './platform/http';
import { isConnectionLost } from './platform/connection-loss';
import { Lease } from './platform/lease';
import { migrate } from './platform/migrate';
import { openApiOf } from './platform/openapi';
import { route, type Route } from './platform/route';
import { ourHosts } from './platform/our-hosts';
import { readTarget } from './platform/request-line';
import { SecretBox } from './platform/secret-box';
import { StartRefusal } from './platform/start-refusal';
import { VERSION } from './platform/version';
import { rolloutRoutes } from './rollout/rollout.routes';
import { defineRollouts } from './rollout/rollout.model';
import { ROLLOUT_LEASE, RolloutService } from './rollout/rollout.service';
import { searchRoutes } from './search/search.routes';
import { definePeople } from './session/person.model';
import { COOKIE, findCallerBy, sessionRoutes } from './session/session.routes';
import { rulesRoutes } from './rules/rules.routes';
import { RulesService } from './rules/rules.service';
import { SessionService } from './session/session.service';
import { setUpRoutes } from './session/set-up.routes';
import { SetUpService } from './session/set-up.service';

/** How long a start waits for its database, in milliseconds. */
const DATABASE_WITHIN_MS = 30_000;

/**
 * How long an idle connection is held, in milliseconds: longer than browsers and reverse proxies hold theirs, so that none
 * sends a request on one that ends in that moment.
 */
const IDLE_MS = 75_000;

/** A running controller and what of it others may use. */
export interface Controller {
  readonly url: string;
  readonly database: Sequelize;
  readonly intents: IntentService;
  readonly rosters: RosterService;
  readonly sessions: SessionService;
  readonly secrets: SecretService;
  readonly catalogue: CatalogueService;
  readonly lines: LineService;
  readonly routes: readonly Route[];
  close(): Promise<void>;
}

/**
 * Starts a controller: schema, services, HTTP, lines, jobs.
 * @param seed called once the schema is there, before anything is served.
 */
export async function startController(
  config: Config,
  seed?: (controller: Omit<Controller, 'url' | 'close'>) => Promise<void>,
): Promise<Controller> {
  const options = { name: 'controller', level: config.logLevel, serializers: { err: errorForLog } };
  const log: Logger = config.logFile === null ? pino(options) : pino(options, privateFile(config.logFile));
  const database = connect(config.databaseUrl);
  for (const define of [definePeople, defineIntent, defineDevices, defineHitches, defineRollouts, defineFirmware])
    define(database);
  try {
    await untilThere(database);
    await migrate(database);
  } catch (error) {
    await database.close();
    throw isConnectionLost(error)
      ? new StartRefusal('The database does not answer. Check DATABASE_URL, and that PostgreSQL runs there.')
      : error;
  }
  const pool = poolOf(config.databaseUrl, log);
  const bus = new Bus(config.databaseUrl, pool, log);
  await bus.open();

  const heavy = new Heavy();
  const intents = new IntentService();
  const secrets = new SecretService(SecretBox.fromFile(config.secretKeyFile, await SecretRow.findOne()));
  const rosters = new RosterService(database, bus);
  const sessions = await new Promise<SessionService>((resolve, reject) => {
    const made: SessionService = new SessionService(database, pool, bus, config.signInsPerMinute, (error) => {
      if (error) reject(error);
      else queueMicrotask(() => resolve(made));
    });
  });
  const failed = (error: unknown): void => {
    if (isConnectionLost(error)) log.warn({ err: error }, 'background: the database is away');
    else log.error({ err: error }, 'background');
  };
  const lease = (key: number): Lease => new Lease(config.databaseUrl, key, log);
  let url = '';
  const address = (): string => config.publicUrl ?? url;
  const drafts = new DraftService(database, intents, rosters, secrets, heavy, bus);
  const hitches = new HitchService(database, bus, failed);
  const sheets = new SheetService(database, hitches);
  const catalogue = new CatalogueService(database, bus);
  const updates = new UpdateService(database, intents, catalogue, bus);
  const runner = new UpdateRunner(database, lease(UPDATE_LEASE), catalogue, updates, bus, failed);
  const cabling = new CablingService(database, bus, failed);
  const commands = new CommandService(database, bus);
  const sites = new SiteService(database, intents, drafts, bus);
  const rows = new DeviceRowReader(database, catalogue);
  const devices = new DeviceService(database, rows, rosters);
  const claims = new ClaimService(database, intents, rosters, hitches, catalogue, updates, bus, failed);
  const changes = new DeviceChangeService(database, intents, rosters, bus);
  const places = new PlaceService(database, intents, rosters, changes, commands, bus);
  const lists = new ListService(database, intents, sheets, claims, sites, heavy);
  const sweeps = new SweepService(
    database,
    commands,
    bus,
    config.sweepPort,
    () => address().replace('http', 'ws'),
    failed,
  );
  const setUp = new SetUpService(database, intents, sessions, drafts, bus, address);
  const check = new CallCheck(database, config.strangersAnAddress, sheets, catalogue, hitches);
  const lines = new LineService(database, secrets, check, catalogue, runner, cabling, bus, config, log);
  lines.listen({
    expected: (device) => claims.takeIn(device),
    answered: (frame) => commands.answered(frame),
    progress: (frame) => sweeps.progress(frame),
  });
  const rollouts = new RolloutService(
    database,
    lease(ROLLOUT_LEASE),
    intents,
    drafts,
    rosters,
    bus,
    config.keepWithinSeconds,
    failed,
  );
  const walks = new WalkService(drafts, rosters);
  const seats = new SeatService(database, drafts, intents, rosters, commands, heavy, bus);
  rollouts.onLive((siteIds) => void seats.runFor(siteIds).catch(failed));

  const routes: Route[] = [
    ...sessionRoutes(sessions),
    ...siteRoutes(sites),
    ...setUpRoutes(setUp, sessions),
    ...deviceRoutes(devices, rows, claims, changes, lines),
    ...commandRoutes(commands),
    ...placeRoutes(places, devices),
    ...hitchRoutes(hitches, sheets),
    ...listRoutes(lists),
    ...sweepRoutes(sweeps),
    ...firmwareRoutes(catalogue, updates, heavy),
    ...draftRoutes(drafts, new UndoService(database, drafts), secrets, database),
    ...rolloutRoutes(rollouts),
    ...walkRoutes(walks),
    ...seatRoutes(seats),
    ...rulesRoutes(new RulesService(database, drafts, rosters, heavy)),
    ...latticeRoutes(new LatticeService(drafts, rosters, heavy)),
    ...searchRoutes(intents),
    ...eventStreamRoutes(bus, {
      hashOf: (context) => sessions.hashOf(context.cookies.get(COOKIE)!),
      lives: (tokenHash) => sessions.lives(tokenHash),
    }),
    route({
      method: 'get',
      path: '/healthz',
      summary: 'Whether the controller and its database answer',
      who: 'anyone',
      handle: async () => {
        await database.query('SELECT 1');
        return { ok: true, version: VERSION, lines: lines.size };
      },
    }),
  ];
  routes.push(
    route({
      method: 'get',
      path: '/api/openapi.json',
      summary: 'This description (OpenAPI 3.1)',
      who: 'anyone',
      handle: () => openApiOf(routes, VERSION),
    }),
  );

  const parts = { database, intents, rosters, sessions, secrets, catalogue, lines, routes };
  await seed?.(parts);
  await drafts.prepare();
  const isOurs = ourHosts(config.publicUrl);
  const handle = httpApp(routes, findCallerBy(sessions), config.webRoot, isOurs, log).callback();
  const server = createServer((request, response) => {
    if (readTarget(request)) return void handle(request, response);
    response
      .writeHead(400, { 'content-type': 'text/plain', connection: 'close' })
      .end('The request line names no address.');
  });
  server.keepAliveTimeout = IDLE_MS;
  await lines.attach(server, isOurs);
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(config.port, config.host, resolve);
  });
  const { port } = server.address() as AddressInfo;
  url = `http://${config.host}:${port}`;
  const housekeeping = housekeepingOf(database, failed);
  housekeeping.open(1000);
  await sweeps.open();
  rollouts.open();
  runner.open();
  return {
    ...parts,
    url,
    close: async () => {
      await rollouts.close();
      await housekeeping.close();
      claims.close();
      hitches.end();
      cabling.close();
      sweeps.close();
      await runner.close();
      await lines.close();
      await closeServer(server);
      await heavy.close();
      await bus.close();
      await pool.end();
      await database.close();
    },
  };
}

/** Waits for a database that is starting or recovers. @throws Error when it does not answer in time. */
async function untilThere(database: Sequelize): Promise<void> {
  for (const deadline = Date.now() + DATABASE_WITHIN_MS; ;) {
    try {
      await database.query('SELECT 1');
      return;
    } catch (error) {
      if (!isConnectionLost(error) || Date.now() > deadline) throw error;
      await new Promise((resolve) => setTimeout(resolve, 250));
    }
  }
}

/** A file that its owner alone reads: what is in a log is nobody else's. */
function privateFile(path: string): ReturnType<typeof pino.destination> {
  closeSync(openSync(path, 'a', 0o600));
  chmodSync(path, 0o600); // one of an earlier version
  return pino.destination(path);
}

/** Of an error what tells it apart; a statement of the database holds people's data, which logs do not. */
function errorForLog(error: unknown): object {
  if (!(error instanceof Error)) return { message: String(error) };
  const { name, message, stack } = error;
  return { name, message, stack };
}

function closeServer(server: Server): Promise<void> {
  return new Promise((resolve) => {
    server.close(() => resolve());
    server.closeAllConnections();
  });
}
