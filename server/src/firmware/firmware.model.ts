import type { UpdateMode, UpdateState } from '@iron-lattice/core/firmware';
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { clock } from '../platform/clock';

/** Updates asked for together. */
export class FirmwareBatch extends Model<InferAttributes<FirmwareBatch>, InferCreationAttributes<FirmwareBatch>> {
  declare id: string;
  declare mode: UpdateMode;
  declare personId: string | null;
  declare at: CreationOptional<Date>;
}

/** One step of one device to a release; a device that needs several has several, by position. */
export class FirmwareUpdate extends Model<InferAttributes<FirmwareUpdate>, InferCreationAttributes<FirmwareUpdate>> {
  declare id: string;
  declare batchId: string;
  declare deviceId: string;
  /** Place among the device's own steps of the batch, from 0. */
  declare position: number;
  declare fromRelease: string;
  declare release: string;
  declare state: UpdateState;
  declare percent: CreationOptional<number>;
  declare canary: boolean;
  declare reason: CreationOptional<string | null>;
  declare notBefore: Date;
  /** When it last got on; one that does not is given up. */
  declare movedAt: CreationOptional<Date>;
  declare endedAt: CreationOptional<Date | null>;
}

export function defineFirmware(sequelize: Sequelize): void {
  const id = { type: DataTypes.UUID, primaryKey: true } as const;
  FirmwareBatch.init(
    { id, mode: DataTypes.TEXT, personId: DataTypes.UUID, at: { type: DataTypes.DATE, defaultValue: clock.date } },
    { sequelize, tableName: 'firmware_batch' },
  );
  FirmwareUpdate.init(
    {
      id,
      batchId: DataTypes.UUID,
      deviceId: DataTypes.UUID,
      position: DataTypes.INTEGER,
      fromRelease: DataTypes.TEXT,
      release: DataTypes.TEXT,
      state: DataTypes.TEXT,
      percent: { type: DataTypes.INTEGER, defaultValue: 0 },
      canary: DataTypes.BOOLEAN,
      reason: DataTypes.TEXT,
      notBefore: DataTypes.DATE,
      movedAt: { type: DataTypes.DATE, defaultValue: clock.date },
      endedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'firmware_update' },
  );
}
