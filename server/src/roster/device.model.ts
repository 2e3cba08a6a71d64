import { createHash } from 'node:crypto';
import type { DeviceDocument, FirstUplink } from '@iron-lattice/core/document';
import type { FirmwarePolicy } from '@iron-lattice/core/firmware';
import { sheetOf, type HardwareSheet } from '@iron-lattice/core/hardware';
import { deviceState, type DeviceState } from '@iron-lattice/core/intake';
import type { RosterDevice, StaticAddress } from '@iron-lattice/core/intent';
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
import type { MethodCounts } from './server-methods';

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
  /** Which of its lines that is: one that ends late does not end the next. */
  declare lineId: CreationOptional<string | null>;
  declare heardAt: CreationOptional<Date | null>;
  declare report: CreationOptional<Report | null>;
  declare claimedAt: CreationOptional<Date | null>;
  /** Site it is expected at; null for a device nobody announced. */
  declare expectedSiteId: CreationOptional<string | null>;
  declare expectedName: CreationOptional<string | null>;
  /** Empty: any model. */
  declare expectedModel: CreationOptional<string | null>;
  declare expectedMac: CreationOptional<string | null>;
  /** Fingerprint on its label. */
  declare expectedKey: CreationOptional<string | null>;
  /** Person who announced it. */
  declare expectedBy: CreationOptional<string | null>;
  declare expectedAt: CreationOptional<Date | null>;
  declare tags: CreationOptional<string[]>;
  /** Of a gateway: what was said at its own page of how it comes to an address; null: nothing. */
  declare first: CreationOptional<FirstUplink | null>;
  /** Its fixed management address; null: given to it. */
  declare fixed: CreationOptional<StaticAddress | null>;
  declare lightOff: CreationOptional<boolean>;
  /** What it is for, in people’s words. */
  declare purpose: CreationOptional<string>;
  /** Supplied sheet of a model we ship none of. */
  declare sheet: CreationOptional<HardwareSheet | null>;
  declare policy: CreationOptional<FirmwarePolicy>;
  /** Release it is being updated to; nothing else is pushed meanwhile. */
  declare updating: CreationOptional<string | null>;
  declare bootedAt: CreationOptional<Date | null>;
  /** Moments of its latest calls, in milliseconds since 1970. */
  declare calls: CreationOptional<number[]>;
  /** Address of the network it last called from, as the socket shows it. */
  declare calledFrom: CreationOptional<string | null>;
  /** Counts the changes of what people say of it. */
  declare version: CreationOptional<number>;
  /** As it last reported it. */
  declare address: CreationOptional<string | null>;
  declare hangsOnId: CreationOptional<string | null>;
  declare hangsOnPort: CreationOptional<string | null>;
  /** Revision that was live when it took the document it runs. */
  declare runsRevision: CreationOptional<number | null>;

  get state(): NonAttribute<DeviceState> {
    const { siteId, online, runs, wants, trouble } = this;
    return deviceState({ claimed: siteId !== null, online, runs, wants, trouble });
  }

  /** Its sheet, or undefined for an expected device whose model nobody said. */
  get hardware(): NonAttribute<HardwareSheet | undefined> {
    return sheetOf(this.model) ?? this.sheet ?? undefined;
  }

  /** @throws Error when it is not claimed. */
  toRoster(): RosterDevice {
    return rosterDeviceOf(this);
  }
}

/** Of a device, what compiling and drafts ask. */
export const ROSTER_FIELDS = [
  'id',
  'siteId',
  'name',
  'serial',
  'model',
  'mac',
  'address',
  'sheet',
  'fixed',
  'lightOff',
  'first',
  'wants',
] as const;
export type RosterRow = Pick<Device, (typeof ROSTER_FIELDS)[number]> & {
  /** Announced for its site, and not taken in yet. */
  readonly expected?: true;
};

/** The same with what it reports of cables and uplinks, as consequences ask. */
export type CabledRow = RosterRow & Pick<Device, 'online' | 'runs' | 'tags'> & { readonly report: Cabling | null };
/** What of a report consequences follow from: how a device is connected, classes that servers named and it does not know, and by what clients say who they are. */
export type Cabling = Pick<Report, 'neighbours' | 'uplinks' | 'unknown' | 'refused'> & {
  readonly methods?: MethodCounts | null;
};

/** @throws Error when it is not claimed. */
export function rosterDeviceOf(row: RosterRow): RosterDevice {
  const { id, siteId, name, serial, model, mac, address, sheet, fixed, lightOff, first, expected } = row;
  if (siteId === null || name === null) throw new Error(`device ${serial} is not claimed`);
  return {
    id,
    siteId,
    name,
    serial,
    model,
    mac,
    ...(sheet ? { sheet } : {}),
    ...(address && !fixed ? { given: address } : {}),
    ...(fixed ? { address: fixed } : {}),
    ...(lightOff ? { lightOff } : {}),
    ...(first ? { first } : {}),
    ...(expected ? { expected } : {}),
  };
}

/** Columns of what is announced of a device. */
export const EXPECTED_FIELDS = ['expectedSiteId', 'expectedName', 'expectedModel'] as const;

/** A device that is announced as it will be at its site; undefined where nobody said of which model it is, or we ship no sheet of that. */
export function expectedRow<T extends RosterRow>(
  row: T & Pick<Device, (typeof EXPECTED_FIELDS)[number]>,
): (T & { readonly expected: true }) | undefined {
  const { expectedSiteId, expectedName, expectedModel, serial } = row;
  const model = expectedModel || row.model;
  if (expectedSiteId === null || !sheetOf(model)) return undefined;
  return { ...row, siteId: expectedSiteId, name: expectedName ?? serial.toLowerCase(), model, expected: true };
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
      lineId: DataTypes.UUID,
      heardAt: DataTypes.DATE,
      report: DataTypes.JSONB,
      claimedAt: DataTypes.DATE,
      expectedSiteId: DataTypes.UUID,
      expectedName: DataTypes.TEXT,
      expectedModel: DataTypes.TEXT,
      expectedMac: DataTypes.TEXT,
      expectedKey: DataTypes.TEXT,
      expectedBy: DataTypes.UUID,
      expectedAt: DataTypes.DATE,
      tags: { type: DataTypes.ARRAY(DataTypes.TEXT), defaultValue: [] },
      fixed: DataTypes.JSONB,
      first: DataTypes.JSONB,
      lightOff: { type: DataTypes.BOOLEAN, defaultValue: false },
      purpose: { type: DataTypes.TEXT, defaultValue: '' },
      sheet: DataTypes.JSONB,
      policy: { type: DataTypes.TEXT, defaultValue: 'leave' },
      updating: DataTypes.TEXT,
      bootedAt: DataTypes.DATE,
      calls: { type: DataTypes.JSONB, defaultValue: [] },
      calledFrom: DataTypes.TEXT,
      version: { type: DataTypes.INTEGER, defaultValue: 0 },
      address: DataTypes.TEXT,
      hangsOnId: DataTypes.UUID,
      hangsOnPort: DataTypes.TEXT,
      runsRevision: DataTypes.INTEGER,
    },
    { sequelize, tableName: 'device' },
  );
  DocumentRow.init(
    { hash: { type: DataTypes.CHAR(64), primaryKey: true }, body: DataTypes.JSONB },
    { sequelize, tableName: 'document' },
  );
}
