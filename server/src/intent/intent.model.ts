import type { UpdateWindow } from '@iron-lattice/core/firmware';
import type { Coordinates } from '@iron-lattice/core/intake';
import type { Operation, Part } from '@iron-lattice/core/intent';
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import { clock } from '../platform/clock';

/** An immutable piece of intent under its hash. */
export class PartRow extends Model<InferAttributes<PartRow>, InferCreationAttributes<PartRow>> {
  declare hash: string;
  declare body: Part;
}

export class Estate extends Model<InferAttributes<Estate>, InferCreationAttributes<Estate>> {
  declare id: string;
  declare name: string;
  declare foundingHash: string;
  declare liveRevision: CreationOptional<number>;
  declare country: CreationOptional<string>;
  declare timeZone: CreationOptional<string>;
  declare updateWindow: CreationOptional<UpdateWindow>;
}

export class Site extends Model<InferAttributes<Site>, InferCreationAttributes<Site>> {
  declare id: string;
  /** Counts the changes of what is said of it beside its intent. */
  declare version: CreationOptional<number>;
  declare name: string;
  declare code: string;
  declare foundingHash: string;
  /** What its devices were told: hashes of the shared part and of its own, and the revision that brought them. */
  declare liveEstate: string;
  declare livePart: string;
  declare liveRevision: CreationOptional<number>;
  declare address: CreationOptional<string>;
  declare coordinates: CreationOptional<Coordinates | null>;
  /** What it is for, in people’s words. */
  declare purpose: CreationOptional<string>;
  declare tags: CreationOptional<string[]>;
  /** Null: the estate's. */
  declare updateWindow: CreationOptional<UpdateWindow | null>;
}

/** What a site's devices were told before and after, as hashes of the shared part and its own, and since when, in ISO 8601. */
export interface SiteStep {
  readonly from: readonly [string, string];
  readonly to: readonly [string, string];
  readonly at: string;
}

/** Which parts were live together; sites not listed stand as they were founded. */
export class Revision extends Model<InferAttributes<Revision>, InferCreationAttributes<Revision>> {
  declare number: number;
  declare name: string;
  declare personId: string;
  declare parts: Record<string, string>;
  /** The step of each site that it moved, by site id. */
  declare moved: CreationOptional<Record<string, SiteStep>>;
  declare at: CreationOptional<Date>;
}

export type DraftState = 'open' | 'rolling-out' | 'rolled-out' | 'discarded';

export class Draft extends Model<InferAttributes<Draft>, InferCreationAttributes<Draft>> {
  declare id: string;
  declare name: string;
  /** What it is for, as its people say it. */
  declare description: CreationOptional<string>;
  declare state: DraftState;
  declare head: CreationOptional<number>;
  /** The revision that its edits are made on, while it is rolled out and live at some sites; else null: the newest. */
  declare onRevision: CreationOptional<number | null>;
  declare personId: string;
  declare createdAt: CreationOptional<Date>;
}

/**
 * One edit of a draft, in order. `undoes`: it only marks that another of this draft was taken back. `reverts`: it
 * takes back an edit of an earlier draft that is live, and counts as an edit of this one.
 */
export class OperationRow extends Model<InferAttributes<OperationRow>, InferCreationAttributes<OperationRow>> {
  declare draftId: string;
  declare number: number;
  declare body: Operation;
  /** What takes it back, as things stood when it was made. */
  declare inverse: Operation;
  /** Hash of the part it was made on. */
  declare madeOn: string;
  declare undoes: CreationOptional<number | null>;
  declare undone: CreationOptional<boolean>;
  /** `draftId number` of the live edit it takes back. */
  declare reverts: CreationOptional<string | null>;
  /** Number of the first of those that one press made; null: it was the only one. */
  declare together: CreationOptional<number | null>;
  declare personId: string;
  declare at: CreationOptional<Date>;
}

/** A sealed secret value; never changed once written. */
export class SecretRow extends Model<InferAttributes<SecretRow>, InferCreationAttributes<SecretRow>> {
  declare id: string;
  declare sealed: Buffer;
  declare personId: string | null;
  /** Whether it is told to devices and shown to nobody. */
  declare hidden: CreationOptional<boolean>;
}

export function defineIntent(sequelize: Sequelize): void {
  const id = { type: DataTypes.UUID, primaryKey: true } as const;
  PartRow.init(
    { hash: { type: DataTypes.CHAR(64), primaryKey: true }, body: DataTypes.JSONB },
    { sequelize, tableName: 'part' },
  );
  Estate.init(
    {
      id,
      name: DataTypes.TEXT,
      foundingHash: DataTypes.CHAR(64),
      liveRevision: DataTypes.INTEGER,
      country: DataTypes.CHAR(2),
      timeZone: DataTypes.TEXT,
      updateWindow: DataTypes.JSONB,
    },
    { sequelize, tableName: 'estate' },
  );
  Site.init(
    {
      id,
      name: DataTypes.TEXT,
      code: DataTypes.TEXT,
      foundingHash: DataTypes.CHAR(64),
      liveEstate: DataTypes.CHAR(64),
      livePart: DataTypes.CHAR(64),
      liveRevision: { type: DataTypes.INTEGER, defaultValue: 0 },
      version: { type: DataTypes.INTEGER, defaultValue: 0 },
      address: { type: DataTypes.TEXT, defaultValue: '' },
      coordinates: DataTypes.JSONB,
      purpose: { type: DataTypes.TEXT, defaultValue: '' },
      tags: { type: DataTypes.ARRAY(DataTypes.TEXT), defaultValue: [] },
      updateWindow: DataTypes.JSONB,
    },
    { sequelize, tableName: 'site' },
  );
  Revision.init(
    {
      number: { type: DataTypes.INTEGER, primaryKey: true },
      name: DataTypes.TEXT,
      personId: DataTypes.UUID,
      parts: DataTypes.JSONB,
      moved: { type: DataTypes.JSONB, defaultValue: {} },
      at: { type: DataTypes.DATE, defaultValue: clock.date },
    },
    { sequelize, tableName: 'revision' },
  );
  Draft.init(
    {
      id,
      name: DataTypes.TEXT,
      description: { type: DataTypes.TEXT, defaultValue: '' },
      state: DataTypes.TEXT,
      head: { type: DataTypes.INTEGER, defaultValue: 0 },
      onRevision: DataTypes.INTEGER,
      personId: DataTypes.UUID,
      createdAt: { type: DataTypes.DATE, defaultValue: clock.date },
    },
    { sequelize, tableName: 'draft' },
  );
  OperationRow.init(
    {
      draftId: { type: DataTypes.UUID, primaryKey: true },
      number: { type: DataTypes.INTEGER, primaryKey: true },
      body: DataTypes.JSONB,
      inverse: DataTypes.JSONB,
      madeOn: DataTypes.CHAR(64),
      undoes: { type: DataTypes.INTEGER, defaultValue: null },
      undone: { type: DataTypes.BOOLEAN, defaultValue: false },
      reverts: { type: DataTypes.TEXT, defaultValue: null },
      together: DataTypes.INTEGER,
      personId: DataTypes.UUID,
      at: { type: DataTypes.DATE, defaultValue: clock.date },
    },
    { sequelize, tableName: 'operation' },
  );
  SecretRow.init(
    { id, sealed: DataTypes.BLOB, personId: DataTypes.UUID, hidden: { type: DataTypes.BOOLEAN, defaultValue: false } },
    { sequelize, tableName: 'secret' },
  );
}
