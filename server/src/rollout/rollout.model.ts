import {
  AT_ONCE,
  type RolloutState,
  type RolloutWish,
  type StepState,
  type WavePlan,
} from '@iron-lattice/core/rollout';
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { clock } from '../platform/clock';

/** One sending out of a draft. Those that are not ended touch no common site. */
export class Rollout extends Model<InferAttributes<Rollout>, InferCreationAttributes<Rollout>> {
  declare id: string;
  declare draftId: string;
  declare draftName: string;
  declare state: RolloutState;
  declare revision: CreationOptional<number | null>;
  declare reason: CreationOptional<string | null>;
  declare resumed: CreationOptional<boolean>;
  /** How often it failed on our side. */
  declare attempts: CreationOptional<number>;
  declare personId: string;
  /** Hashes of the parts that become live, by part key. */
  declare parts: Record<string, string>;
  /** Null in rollouts of versions that knew no waves. */
  declare plan: CreationOptional<WavePlan | null>;
  /** Names of its waves. */
  declare waves: CreationOptional<string[]>;
  /** Number of the wave that is told, from 0. */
  declare wave: CreationOptional<number>;
  /** Until when is waited after that wave; null while it is told. */
  declare restUntil: CreationOptional<Date | null>;
  /** What somebody asked of it. */
  declare asked: CreationOptional<RolloutWish | null>;
  /** Guarantees that are broken knowingly, with their site. */
  declare accepted: CreationOptional<{ siteId: string; words: string }[]>;
  /** The revision that took it back. */
  declare back: CreationOptional<number | null>;
  /** The revision that was the newest before it was live anywhere; until then, the one it was planned on. */
  declare base: CreationOptional<number>;
  declare startedAt: CreationOptional<Date>;
  declare endedAt: CreationOptional<Date | null>;
}

/** How a rollout goes. */
export const planOf = ({ plan }: Rollout): WavePlan => plan ?? AT_ONCE;

/** What one device is told in a rollout. */
export class RolloutStep extends Model<InferAttributes<RolloutStep>, InferCreationAttributes<RolloutStep>> {
  declare rolloutId: string;
  declare position: number;
  declare wave: CreationOptional<number>;
  declare deviceId: string;
  declare siteId: CreationOptional<string | null>;
  declare state: StepState;
  declare hash: string;
  /** What the device should run if this is put back. */
  declare beforeHash: string | null;
  declare reason: CreationOptional<string | null>;
  declare added: number;
  declare removed: number;
}

/** A site that a rollout touches. */
export class RolloutSite extends Model<InferAttributes<RolloutSite>, InferCreationAttributes<RolloutSite>> {
  declare rolloutId: string;
  declare siteId: string;
  /** The wave with which it is told as a whole; -1: no device is told anything there, and it goes along with the first. */
  declare wave: number;
  /** Whether it is live there. */
  declare live: CreationOptional<boolean>;
  /** What was live there before. */
  declare beforeEstate: string;
  declare beforePart: string;
  declare beforeRevision: number;
  /** Clients that were there before its wave began. */
  declare clients: CreationOptional<number | null>;
}

export function defineRollouts(sequelize: Sequelize): void {
  const list = () => ({ type: DataTypes.JSONB, defaultValue: [] });
  Rollout.init(
    {
      id: { type: DataTypes.UUID, primaryKey: true },
      draftId: DataTypes.UUID,
      draftName: DataTypes.TEXT,
      state: DataTypes.TEXT,
      revision: DataTypes.INTEGER,
      reason: DataTypes.TEXT,
      resumed: { type: DataTypes.BOOLEAN, defaultValue: false },
      attempts: { type: DataTypes.INTEGER, defaultValue: 0 },
      personId: DataTypes.UUID,
      parts: DataTypes.JSONB,
      plan: DataTypes.JSONB,
      waves: list(),
      wave: { type: DataTypes.INTEGER, defaultValue: 0 },
      restUntil: DataTypes.DATE,
      asked: DataTypes.TEXT,
      accepted: list(),
      back: DataTypes.INTEGER,
      base: { type: DataTypes.INTEGER, defaultValue: 0 },
      startedAt: { type: DataTypes.DATE, defaultValue: clock.date },
      endedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'rollout' },
  );
  RolloutStep.init(
    {
      rolloutId: { type: DataTypes.UUID, primaryKey: true },
      position: { type: DataTypes.INTEGER, primaryKey: true },
      wave: { type: DataTypes.INTEGER, defaultValue: 0 },
      deviceId: DataTypes.UUID,
      siteId: DataTypes.UUID,
      state: DataTypes.TEXT,
      hash: DataTypes.CHAR(64),
      beforeHash: DataTypes.CHAR(64),
      reason: DataTypes.TEXT,
      added: DataTypes.INTEGER,
      removed: DataTypes.INTEGER,
    },
    { sequelize, tableName: 'rollout_step' },
  );
  RolloutSite.init(
    {
      rolloutId: { type: DataTypes.UUID, primaryKey: true },
      siteId: { type: DataTypes.UUID, primaryKey: true },
      wave: DataTypes.INTEGER,
      live: { type: DataTypes.BOOLEAN, defaultValue: false },
      beforeEstate: DataTypes.CHAR(64),
      beforePart: DataTypes.CHAR(64),
      beforeRevision: DataTypes.INTEGER,
      clients: DataTypes.INTEGER,
    },
    { sequelize, tableName: 'rollout_site' },
  );
}
