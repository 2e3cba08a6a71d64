import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import pg from 'pg';
import { pino, type Logger } from 'pino';
import type { Sequelize } from 'sequelize';
import { walkRoutes } from './bench/walk.routes';
import { WalkService } from './bench/walk.service';
import { defineDevices } from './intake/device.model';
import { deviceRoutes } from './intake/device.routes';
import { DeviceService } from './intake/device.service';
import { RosterService } from './intake/roster.service';
import { siteRoutes } from './intake/site.routes';
import { SiteService } from './intake/site.service';
import { draftRoutes } from './intent/draft.routes';
import { DraftService } from './intent/draft.service';
import { defineIntent } from './intent/intent.model';
import { IntentService } from './intent/intent.service';
import { SecretService } from './intent/secret.service';
import { UndoService } from './intent/undo.service';
import { LineService } from './line/line.service';
import { Bus } from './platform/bus';
import type { Config } from './platform/config';
import { connect, migrate } from './platform/database';
import { eventStreamRoutes } from './platform/event-stream.routes';
import { Heavy } from './platform/heavy';
import { httpApp } from './platform/http';
import { Jobs } from './platform/jobs';
import { openApiOf } from './platform/openapi';
import { route, type Route } from './platform/route';
import { SecretBox } from './platform/secret-box';
import { rolloutRoutes } from './rollout/rollout.routes';
import { defineRollouts } from './rollout/rollout.model';
import { RolloutService } from './rollout/rollout.service';
import { searchRoutes } from './search/search.routes';
import { definePeople } from './session/person.model';
import { findCallerBy, sessionRoutes } from './session/session.routes';
import { SessionService } from './session/session.service';

export const VERSION = '0.1.0';

/** A running controller and what of it others may use. */
export interface Controller {
  readonly url: string;
  readonly database: Sequelize;
  readonly intents: IntentService;
  readonly rosters: RosterService;
  readonly sessions: SessionService;
  readonly secrets: SecretService;
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
  const options = { name: 'controller', level: config.logLevel };
  const log: Logger = config.logFile === null ? pino(options) : pino(options, pino.destination(config.logFile));
  const database = connect(config.databaseUrl);
  for (const define of [definePeople, defineIntent, defineDevices, defineRollouts]) define(database);
  await migrate(database);
  const pool = new pg.Pool({ connectionString: config.databaseUrl, max: 8 });
  pool.on('error', (error) => log.warn({ error: error.message }, 'database connection lost'));
  const bus = new Bus(config.databaseUrl, pool, log);
  const jobs = new Jobs(config.databaseUrl, log);
  await Promise.all([bus.open(), jobs.open()]);

  const heavy = new Heavy();
  const intents = new IntentService();
  const secrets = new SecretService(SecretBox.fromFile(config.secretKeyFile));
  const rosters = new RosterService(bus);
  const sessions = await new Promise<SessionService>((resolve, reject) => {
    const made: SessionService = new SessionService(database, pool, config.signInsPerMinute, (error) => {
      if (error) reject(error);
      else queueMicrotask(() => resolve(made));
    });
  });
  const sites = new SiteService(database, intents, bus);
  const devices = new DeviceService(database, intents, rosters, bus);
  const drafts = new DraftService(database, intents, rosters, secrets, heavy, bus);
  const lines = new LineService(database, secrets, bus, config, log);
  const rollouts = new RolloutService(database, pool, intents, drafts, rosters, jobs, bus, config.keepWithinSeconds);
  const walks = new WalkService(drafts, rosters);

  const routes: Route[] = [
    ...sessionRoutes(sessions),
    ...siteRoutes(sites),
    ...deviceRoutes(devices, lines),
    ...draftRoutes(drafts, new UndoService(database, drafts), secrets, database),
    ...rolloutRoutes(rollouts),
    ...walkRoutes(walks),
    ...searchRoutes(intents),
    ...eventStreamRoutes(bus),
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

  const parts = { database, intents, rosters, sessions, secrets, lines, routes };
  await seed?.(parts);
  const handle = httpApp(routes, findCallerBy(sessions), config.webRoot, log).callback();
  const server = createServer((request, response) => void handle(request, response));
  await lines.attach(server);
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(config.port, config.host, resolve);
  });
  await rollouts.open();
  const { port } = server.address() as AddressInfo;
  return {
    ...parts,
    url: `http://${config.host}:${port}`,
    close: async () => {
      rollouts.close();
      await lines.close();
      await closeServer(server);
      await Promise.allSettled([jobs.close(), heavy.close()]);
      await bus.close();
      await pool.end();
      await database.close();
    },
  };
}

function closeServer(server: Server): Promise<void> {
  return new Promise((resolve) => {
    server.close(() => resolve());
    server.closeAllConnections();
  });
}
