import { readFileSync } from 'node:fs';
import { Joi } from '@iron-lattice/core/schema';
import type { LdapFile } from '../ldap/directory-entries';

/** What is answered to whoever is let in. */
export interface DirectoryAnswer {
  readonly filterId?: string;
  /** Name or ID of a VLAN. */
  readonly vlan?: string;
  /** Seconds that a session may last, or be idle. */
  readonly session?: number;
  readonly idle?: number;
  /** What it wants said with each word of accounting (Class, RFC 2865 §5.25). */
  readonly class?: string;
  /** Keys of a ring that it may give (Tunnel-Password), each with the name or ID of the VLAN that it leads to, if any. */
  readonly keys?: readonly { readonly key: string; readonly vlan?: string }[];
}
export interface DirectoryUser extends DirectoryAnswer {
  readonly password: string;
  readonly group?: string;
}

/** One server: where it stands in the world, and the secret that it shares with whoever asks. */
export interface DirectoryServer {
  readonly name: string;
  readonly address: string;
  readonly port: number;
  readonly accounting: number;
  readonly secret: string;
}

/** RADIUS servers of the made-up world, and whom they know. */
export interface DirectoryFile {
  readonly format: 'iron-lattice.radius/1';
  readonly servers: readonly DirectoryServer[];
  readonly groups: Readonly<Record<string, DirectoryAnswer>>;
  readonly users: Readonly<Record<string, DirectoryUser>>;
  /** By MAC address, in lower case with colons. */
  readonly macs: Readonly<Record<string, DirectoryAnswer & { readonly group?: string }>>;
  /** A directory beside them, which is asked by LDAP. */
  readonly ldap?: LdapFile;
}

const text = Joi.string().max(253);
const port = Joi.number().port().required();
const keys = Joi.array()
  .items(Joi.object({ key: Joi.string().min(8).max(64).required(), vlan: text }))
  .max(31);
const answer = { filterId: text, vlan: text, session: Joi.number(), idle: Joi.number(), class: text, keys };
const schema = Joi.object({
  format: Joi.string().valid('iron-lattice.radius/1').required(),
  servers: Joi.array()
    .items(
      Joi.object({
        name: text.required(),
        address: Joi.string().ip().required(),
        port,
        accounting: port,
        secret: text.required(),
      }),
    )
    .required(),
  groups: Joi.object().pattern(text, Joi.object(answer)).required(),
  users: Joi.object()
    .pattern(text, Joi.object({ ...answer, password: text.required(), group: text }))
    .required(),
  macs: Joi.object()
    .pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/, Joi.object({ ...answer, group: text }))
    .required(),
  ldap: Joi.object({
    base: text.required(),
    anybody: Joi.boolean(),
    accounts: Joi.object()
      .pattern(text, Joi.object({ password: text.required(), rights: Joi.valid('least', 'passwords').required() }))
      .required(),
    people: Joi.object()
      .pattern(
        text,
        Joi.object({ name: text.required(), password: text.required(), groups: Joi.array().items(text).required() }),
      )
      .required(),
  }),
});

/** Checks a directory. @throws Error naming the place when it is none. */
export function checkDirectory(value: unknown): DirectoryFile {
  const { error } = schema.validate(value);
  if (error) throw new Error(`not a directory file: ${error.message}`);
  return value as DirectoryFile;
}

/** Reads a directory file. */
export const readDirectory = (path: string): DirectoryFile => checkDirectory(JSON.parse(readFileSync(path, 'utf8')));
