import { createHash } from 'node:crypto';
import type { DeviceDocument } from '@iron-lattice/core/document';
import { requireSheet } from '@iron-lattice/core/hardware';
import { deviceState, type DeviceState, type DeviceView } from '@iron-lattice/core/intake';
import type { RosterDevice } from '@iron-lattice/core/intent';
import type { Report } from '@iron-lattice/core/line';
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type NonAttribute,
  type Sequelize,
} from 'sequelize';

/** A device as last heard. Live facts, not intent: rows of their own. */
export class Device extends Model<InferAttributes<Device>, InferCreationAttributes<Device>> {
  declare id: string;
  declare siteId: CreationOptional<string | null>;
  declare name: CreationOptional<string | null>;
  declare serial: string;
  declare model: string;
  declare mac: string;
  declare firmware: string;
  declare publicKey: CreationOptional<string | null>;
  declare runs: CreationOptional<string | null>;
  declare wants: CreationOptional<string | null>;
  /** Hash of a document it has on trial. */
  declare applied: CreationOptional<string | null>;
  declare trouble: CreationOptional<string | null>;
  declare online: CreationOptional<boolean>;
  /** Bus process that holds its line. */
  declare lineOwner: CreationOptional<number | null>;
  declare heardAt: CreationOptional<Date | null>;
  declare report: CreationOptional<Report | null>;
  declare claimedAt: CreationOptional<Date | null>;

  get state(): NonAttribute<DeviceState> {
    const { siteId, online, runs, wants, trouble } = this;
    return deviceState({ claimed: siteId !== null, online, runs, wants, trouble });
  }

  /** @throws Error when it is not claimed. */
  toRoster(): RosterDevice {
    const { id, siteId, name, serial, model } = this;
    if (siteId === null || name === null) throw new Error(`device ${serial} is not claimed`);
    return { id, siteId, name, serial, model };
  }

  toView(hangsOn: string | null): DeviceView {
    const sheet = requireSheet(this.model);
    const { id, siteId, name, model, serial, mac, firmware, runs, wants, trouble, report } = this;
    return {
      id,
      siteId,
      state: this.state,
      kind: sheet.kind,
      name,
      model,
      title: sheet.title,
      serial,
      mac,
      firmware,
      address: report?.address ?? null,
      fingerprint: this.publicKey ? fingerprintOf(this.publicKey) : '',
      hangsOn,
      runs,
      wants,
      trouble,
      heardAt: this.heardAt?.toISOString() ?? null,
      uptime: report?.uptime ?? null,
      clients: report?.clients ?? [],
    };
  }
}

/** The short form of a key, as on the device's label: 16 hex digits of its SHA-256. */
export const fingerprintOf = (publicKey: string): string =>
  createHash('sha256').update(Buffer.from(publicKey, 'base64')).digest('hex').slice(0, 16);

/** A device document under its hash. */
export class DocumentRow extends Model<InferAttributes<DocumentRow>, InferCreationAttributes<DocumentRow>> {
  declare hash: string;
  declare body: DeviceDocument;
}

export function defineDevices(sequelize: Sequelize): void {
  Device.init(
    {
      id: { type: DataTypes.UUID, primaryKey: true },
      siteId: DataTypes.UUID,
      name: DataTypes.TEXT,
      serial: DataTypes.TEXT,
      model: DataTypes.TEXT,
      mac: DataTypes.TEXT,
      firmware: DataTypes.TEXT,
      publicKey: DataTypes.TEXT,
      runs: DataTypes.CHAR(64),
      wants: DataTypes.CHAR(64),
      applied: DataTypes.CHAR(64),
      trouble: DataTypes.TEXT,
      online: { type: DataTypes.BOOLEAN, defaultValue: false },
      lineOwner: DataTypes.INTEGER,
      heardAt: DataTypes.DATE,
      report: DataTypes.JSONB,
      claimedAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'device' },
  );
  DocumentRow.init(
    { hash: { type: DataTypes.CHAR(64), primaryKey: true }, body: DataTypes.JSONB },
    { sequelize, tableName: 'document' },
  );
}
