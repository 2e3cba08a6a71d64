import type { SecretRef } from '../../base';
import type { Band } from '../../hardware';

/** When an AP hangs on another by radio: not at all, while its cable leads nowhere, or whether it has one or not. */
export type MeshWhen = 'never' | 'fallback' | 'always';

/** What is said of how APs hang on each other by radio. */
export interface MeshFields {
  readonly when: MeshWhen;
  /** Band of the radio that it hangs by. */
  readonly band: Band;
  /** Most radio hops to an AP with a cable. */
  readonly hops: number;
  /** Ids of the APs that it may hang on. */
  readonly parents: 'any' | readonly string[];
}

/** What a site says for all its APs, and what they prove to each other that they are of one site by. */
export interface MeshSite extends Pick<MeshFields, 'when' | 'band' | 'hops'> {
  readonly key: SecretRef;
}

/** What is kept of one AP: what differs from its site. */
export type MeshEntry = Partial<MeshFields>;
/** By device id. */
export type MeshEntries = Readonly<Record<string, MeshEntry>>;

/** How it is while a site says nothing. */
export const USUAL_MESH: Pick<MeshFields, 'when' | 'band' | 'hops'> = { when: 'never', band: '5', hops: 2 };

/** Most hops that can be asked for: each repeats every frame on the air. */
export const MOST_HOPS = 4;
/** APs that can be named as those to hang on. */
export const MOST_PARENTS = 32;

/** The port of an AP at which others hang on it by radio, and it on one of them. No socket of a sheet has this name. */
export const MESH_PORT = 'mesh';
