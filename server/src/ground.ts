import type { Logger } from 'pino';
import type { Pool } from 'pg';
import type { Sequelize } from 'sequelize';
import { defineIntent, SecretRow } from './intent/intent.model';
import { DraftReview } from './intent/draft-review';
import { DraftService } from './intent/draft.service';
import { Following } from './intent/following';
import { draftRoutes } from './intent/draft.routes';
import { EstateDrafts } from './intent/estate-draft';
import { IntentService } from './intent/intent.service';
import { SecretService } from './intent/secret.service';
import { UndoService } from './intent/undo.service';
import { commandRoutes } from './line/command.routes';
import { CommandService } from './line/command.service';
import { LineService } from './line/line.service';
import { Bus } from './platform/bus';
import { clock } from './platform/clock';
import type { Config } from './platform/config';
import { isConnectionLost } from './platform/connection-loss';
import { poolOf } from './platform/database';
import { eventStreamRoutes } from './platform/event-stream.routes';
import { Heavy } from './platform/heavy';
import { Lease } from './platform/lease';
import type { Migration } from './platform/migrate';
import * as first from './platform/migrations/0001-first';
import * as devices from './platform/migrations/0002-intake';
import * as limits from './platform/migrations/0005-limits';
import * as reception from './session/migrations/0021-reception';
import * as together from './intent/migrations/0022-together';
import './platform/native-hash';
import { Offers } from './platform/offers';
import type { Route } from './platform/route';
import { SecretBox } from './platform/secret-box';
import { AIR } from './roster/air-offer';
import { ENTRY_DOUBTS } from './roster/entry-doubts-offer';
import { GUEST_FACTS } from './roster/guest-facts-offer';
import { KEY_LEADS } from './roster/key-leads-offer';
import { CablingService } from './roster/cabling.service';
import { CatalogueService } from './roster/catalogue.service';
import { defineDevices } from './roster/device.model';
import { RosterService } from './roster/roster.service';
import { AttemptLimits } from './session/attempt-limits';
import { definePeople } from './session/person.model';
import { COOKIE, sessionRoutes } from './session/session.routes';
import { SessionService } from './session/session.service';
import { setUpRoutes } from './session/set-up.routes';
import { SetUpService } from './session/set-up.service';

/** What is there for every stage: platform, roster, intent, sessions, the device line. */
export interface Ground {
  readonly config: Config;
  readonly log: Logger;
  /** For what goes wrong where nobody waits for it. */
  readonly failed: (error: unknown) => void;
  readonly database: Sequelize;
  /** Connections beside Sequelize's, for libraries that bring their own statements. */
  readonly pool: Pool;
  readonly bus: Bus;
  readonly heavy: Heavy;
  readonly lease: (key: number) => Lease;
  /** Where this controller answers. */
  readonly address: () => string;
  /** What stages do for each other. */
  readonly offers: Offers;
  readonly rosters: RosterService;
  readonly catalogue: CatalogueService;
  readonly intents: IntentService;
  readonly secrets: SecretService;
  readonly drafts: DraftService;
  readonly following: Following;
  readonly reviews: DraftReview;
  readonly sessions: SessionService;
  readonly attempts: AttemptLimits;
  readonly commands: CommandService;
  readonly lines: LineService;
}

/** Models and migrations of what is there for every stage. */
export const GROUND_MODELS = [definePeople, defineIntent, defineDevices];
export const GROUND_MIGRATIONS: readonly Migration[] = [first, devices, limits, reception, together];
const GROUND_TASKS = [
  new URL('./platform/platform.heavy.ts', import.meta.url),
  new URL('./intent/intent.heavy.ts', import.meta.url),
];
/** What is thrown away when nobody can want it any more; each can be done by any controller, at any time. */
export const GROUND_HOUSEKEEPING: readonly string[] = [
  `DELETE FROM command_answer WHERE at < now() - interval '15 minutes'`,
  `DELETE FROM bus_message WHERE at < now() - interval '5 minutes'`,
];

/**
 * Lays the ground: everything that stages stand on. The schema is up to date.
 * @param address where this controller answers, once it does.
 * @param tasks files of tasks of the stages.
 */
export async function layGround(
  config: Config,
  { database, log, address }: Pick<Ground, 'database' | 'log' | 'address'>,
  tasks: readonly URL[],
): Promise<Ground & { readonly routes: readonly Route[]; readonly close: () => Promise<void> }> {
  const pool = poolOf(config.databaseUrl, log);
  const bus = new Bus(config.databaseUrl, pool, log);
  await bus.open();
  const failed = (error: unknown): void => {
    if (isConnectionLost(error)) log.warn({ err: error }, 'background: the database is away');
    else log.error({ err: error }, 'background');
  };
  const leaveClock = await clock.follow(database, failed);
  const heavy = new Heavy([...GROUND_TASKS, ...tasks]);
  const lease = (key: number): Lease => new Lease(config.databaseUrl, key, log);
  const rosters = new RosterService(database, bus);
  const cabling = new CablingService(database, bus, failed);
  const catalogue = new CatalogueService(database, bus);
  const intents = new IntentService();
  const secrets = new SecretService(SecretBox.fromFile(config.secretKeyFile, await SecretRow.findOne()));
  const offers = new Offers();
  const following = new Following(
    intents,
    rosters,
    heavy,
    (siteIds) => offers.take(AIR)(siteIds),
    secrets,
    () => offers.take(ENTRY_DOUBTS)(),
    (ssidIds) => offers.take(KEY_LEADS)(ssidIds),
    () => offers.take(GUEST_FACTS)(),
  );
  const drafts = new DraftService(database, intents, rosters, secrets, following, bus);
  const reviews = new DraftReview(drafts, following, heavy);
  const attempts = await new Promise<AttemptLimits>((resolve, reject) => {
    const made: AttemptLimits = new AttemptLimits(pool, config.signInsPerMinute, (error) => {
      if (error) reject(error);
      else queueMicrotask(() => resolve(made));
    });
  });
  const sessions = new SessionService(database, bus, attempts);
  const setUp = new SetUpService(database, intents, sessions, drafts, bus, address);
  const commands = new CommandService(database, bus, secrets);
  const lines = new LineService(database, secrets, commands, cabling, bus, config, log);
  const routes: readonly Route[] = [
    ...sessionRoutes(sessions),
    ...setUpRoutes(setUp, sessions),
    ...draftRoutes(drafts, reviews, new EstateDrafts(drafts), new UndoService(database, drafts), secrets, database),
    ...commandRoutes(commands),
    ...eventStreamRoutes(bus, {
      hashOf: (context) => sessions.hashOf(context.cookies.get(COOKIE)!),
      lives: (tokenHash) => sessions.lives(tokenHash),
    }),
  ];
  return {
    ...{ config, log, failed, database, pool, bus, heavy, lease, address, offers },
    ...{
      rosters,
      catalogue,
      intents,
      secrets,
      drafts,
      following,
      reviews,
      sessions,
      attempts,
      commands,
      lines,
      routes,
    },
    close: async () => {
      await leaveClock();
      cabling.close();
      await heavy.close();
      await bus.close();
      await pool.end();
    },
  };
}
