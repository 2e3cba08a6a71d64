import type { HitchCode } from '@iron-lattice/core/intake';
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { clock } from '../platform/clock';

/** What keeps a device from coming in or staying in step; open until `settledAt`. One a serial number and code. */
export class Hitch extends Model<InferAttributes<Hitch>, InferCreationAttributes<Hitch>> {
  declare id: string;
  declare code: HitchCode;
  declare serial: string;
  declare deviceId: CreationOptional<string | null>;
  declare reason: string;
  declare next: string;
  declare retry: string;
  /** What trying again needs to know. */
  declare detail: CreationOptional<Record<string, string>>;
  /** Address that somebody called from who is none of ours. */
  declare calledFrom: CreationOptional<string | null>;
  declare times: CreationOptional<number>;
  declare firstAt: CreationOptional<Date>;
  declare lastAt: CreationOptional<Date>;
  declare settledAt: CreationOptional<Date | null>;
}

export function defineHitches(sequelize: Sequelize): void {
  Hitch.init(
    {
      id: { type: DataTypes.UUID, primaryKey: true },
      code: DataTypes.TEXT,
      serial: DataTypes.TEXT,
      deviceId: DataTypes.UUID,
      reason: DataTypes.TEXT,
      next: DataTypes.TEXT,
      retry: DataTypes.TEXT,
      detail: { type: DataTypes.JSONB, defaultValue: {} },
      calledFrom: DataTypes.TEXT,
      times: { type: DataTypes.INTEGER, defaultValue: 1 },
      firstAt: { type: DataTypes.DATE, defaultValue: clock.date },
      lastAt: { type: DataTypes.DATE, defaultValue: clock.date },
      settledAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'hitch' },
  );
}
