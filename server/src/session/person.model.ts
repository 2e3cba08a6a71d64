import type { PersonView, Role } from '@iron-lattice/core/base';
import { DataTypes, Model, type InferAttributes, type InferCreationAttributes, type Sequelize } from 'sequelize';

export class Person extends Model<InferAttributes<Person>, InferCreationAttributes<Person>> {
  declare id: string;
  declare name: string;
  declare email: string;
  declare role: Role;
  declare passwordHash: string;
  /** Of reception: the sites whose guests it looks after. */
  declare siteIds: string[] | null;
  /** Since when nobody signs in as them any more. */
  declare goneAt: Date | null;
  declare seenAt: Date | null;

  toView(): PersonView {
    const sites = this.role === 'reception' ? { siteIds: this.siteIds ?? [] } : {};
    return { id: this.id, name: this.name, email: this.email, role: this.role, ...sites };
  }
}

/** One signed-in browser; the token itself is only in its cookie. */
export class Session extends Model<InferAttributes<Session>, InferCreationAttributes<Session>> {
  declare tokenHash: string;
  declare personId: string;
  declare expiresAt: Date;
}

export function definePeople(sequelize: Sequelize): void {
  Person.init(
    {
      id: { type: DataTypes.UUID, primaryKey: true },
      name: DataTypes.TEXT,
      email: DataTypes.TEXT,
      role: DataTypes.TEXT,
      passwordHash: DataTypes.TEXT,
      siteIds: DataTypes.ARRAY(DataTypes.UUID),
      goneAt: DataTypes.DATE,
      seenAt: DataTypes.DATE,
    },
    { sequelize, tableName: 'person' },
  );
  Session.init(
    { tokenHash: { type: DataTypes.TEXT, primaryKey: true }, personId: DataTypes.UUID, expiresAt: DataTypes.DATE },
    { sequelize, tableName: 'session' },
  );
}
