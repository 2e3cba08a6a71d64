import type { IncomingMessage } from 'node:http';
import type { Sequelize } from 'sequelize';
import { GROUND_HOUSEKEEPING, GROUND_MIGRATIONS, GROUND_MODELS, layGround, type Ground } from './ground';
import { callerOf, type Caller } from './platform/caller-address';
import type { Config } from './platform/config';
import { isConnectionLost } from './platform/connection-loss';
import { httpApp } from './platform/http';
import { connect } from './platform/database';
import { housekeepingOf } from './platform/housekeeping';
import { listen } from './platform/listen';
import { openLog } from './platform/log';
import { migrate, type Migration } from './platform/migrate';
import { openApiOf } from './platform/openapi';
import { ourHosts } from './platform/our-hosts';
import { route, type Route } from './platform/route';
import { StartRefusal } from './platform/start-refusal';
import { VERSION } from './platform/version';
import { refusalsTo } from './session/refusals';
import { findCallerBy } from './session/session.routes';
import type { Stage } from './stage';
import { STAGES } from './stages';

/** How long a start waits for its database, in milliseconds. */
const DATABASE_WITHIN_MS = 30_000;

/** A running controller and what of it others may use. */
export interface Controller extends Ground {
  readonly url: string;
  readonly routes: readonly Route[];
  close(): Promise<void>;
}

/**
 * Starts a controller: schema, services, HTTP, lines, jobs.
 * @param seed called once the schema is there, before anything is served.
 * @param stages what it can do.
 */
export async function startController(
  config: Config,
  seed?: (ground: Ground) => Promise<void>,
  stages: readonly Stage[] = STAGES,
): Promise<Controller> {
  const log = openLog(config);
  const database = await openDatabase(config, stages);
  let url = '';
  const base = { database, log, address: () => config.publicUrl ?? url };
  const tasks = stages.flatMap(({ heavy }) => heavy ?? []);
  const { routes: ofGround, close: leaveGround, ...ground } = await layGround(config, base, tasks);
  const opened = stages.map((stage) => stage.open(ground));
  const routes = withDescription([...ofGround, ...opened.flatMap((stage) => stage.routes), health(ground)]);

  await seed?.(ground);
  await ground.drafts.prepare();
  const { sessions, lines, failed } = ground;
  const isOurs = ourHosts(config.publicUrl);
  const heardFrom = (request: IncomingMessage): Caller => callerOf(request, config.proxies);
  const app = httpApp({
    routes,
    findCaller: findCallerBy(sessions),
    refused: refusalsTo(database, failed),
    webRoot: config.webRoot,
    callerOf: heardFrom,
    isOurs,
    log,
  });
  const http = await listen(app.callback(), config, (server) =>
    lines.attach(server, isOurs, (request) => heardFrom(request).address),
  );
  url = http.url;
  const rules = [...GROUND_HOUSEKEEPING, ...stages.flatMap(({ housekeeping = [] }) => housekeeping)];
  const housekeeping = housekeepingOf(database, rules, failed);
  housekeeping.open(1000);
  for (const stage of opened) await stage.begin?.();
  return {
    ...ground,
    url,
    routes,
    close: async () => {
      await housekeeping.close();
      for (const stage of opened.toReversed()) await stage.end?.();
      await lines.close();
      for (const stage of opened) await stage.settle?.();
      await http.close();
      await leaveGround();
      await database.close();
    },
  };
}

/** Every step of the schema, of the ground and of stages. */
export const migrationsOf = (stages: readonly Stage[] = STAGES): readonly Migration[] => [
  ...GROUND_MIGRATIONS,
  ...stages.flatMap(({ migrations = [] }) => migrations),
];

/** Opens the database and brings its schema up to date. @throws StartRefusal when it does not answer. */
async function openDatabase(config: Config, stages: readonly Stage[]): Promise<Sequelize> {
  const database = connect(config.databaseUrl);
  for (const define of [...GROUND_MODELS, ...stages.flatMap(({ models = [] }) => models)]) define(database);
  try {
    await untilThere(database);
    await migrate(database, migrationsOf(stages));
    return database;
  } catch (error) {
    await database.close();
    throw isConnectionLost(error)
      ? new StartRefusal('The database does not answer. Check DATABASE_URL, and that PostgreSQL runs there.')
      : error;
  }
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

const health = ({ database, lines }: Ground): Route =>
  route({
    method: 'get',
    path: '/healthz',
    summary: 'Whether the controller and its database answer',
    who: 'anyone',
    handle: async () => {
      await database.query('SELECT 1');
      return { ok: true, version: VERSION, lines: lines.size };
    },
  });

/** Routes, and the one that describes them all. */
function withDescription(routes: readonly Route[]): readonly Route[] {
  const all: Route[] = [...routes];
  const described = route({
    method: 'get',
    path: '/api/openapi.json',
    summary: 'This description (OpenAPI 3.1)',
    who: 'anyone',
    handle: () => openApiOf(all, VERSION),
  });
  all.push(described);
  return all;
}
