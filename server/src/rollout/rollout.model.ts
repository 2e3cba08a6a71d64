import type { RolloutState, StepState } from '@iron-lattice/core/rollout';
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';

/** One sending out of a draft. At most one is not ended. */
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
  declare startedAt: CreationOptional<Date>;
  declare endedAt: CreationOptional<Date | null>;
}

/** What one device is told in a rollout. */
export class RolloutStep extends Model<InferAttributes<RolloutStep>, InferCreationAttributes<RolloutStep>> {
  declare rolloutId: string;
  declare position: number;
  declare deviceId: string;
  declare state: StepState;
  declare hash: string;
  /** What the device should run if this is put back. */
  declare beforeHash: string | null;
  declare reason: CreationOptional<string | null>;
  declare added: number;
  declare removed: number;
}

export function defineRollouts(sequelize: Sequelize): void {
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
      startedAt: { type: DataTypes.DATE, defaultValue: DataTypes.NOW },
      endedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'rollout' },
  );
  RolloutStep.init(
    {
      rolloutId: { type: DataTypes.UUID, primaryKey: true },
      position: { type: DataTypes.INTEGER, primaryKey: true },
      deviceId: DataTypes.UUID,
      state: DataTypes.TEXT,
      hash: DataTypes.CHAR(64),
      beforeHash: DataTypes.CHAR(64),
      reason: DataTypes.TEXT,
      added: DataTypes.INTEGER,
      removed: DataTypes.INTEGER,
    },
    { sequelize, tableName: 'rollout_step' },
  );
}
