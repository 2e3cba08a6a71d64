import type { DirectoryAccess } from '../directory/directory-client';
import type { GroupClass } from '@iron-lattice/core/entry';
import type { Proof, ProofAsked } from '../../roster/user-offer';

/** A user as the thread that answers has to know it. */
export interface KnownEntry {
  readonly id: string;
  readonly key: string;
  /** Null: a device, let in by its MAC address. */
  readonly hash: string | null;
  readonly groups: readonly string[];
  readonly until: string | null;
  readonly most: number | null;
  readonly off: boolean;
  /** MAC addresses that it came with, where that is limited. */
  readonly macs: readonly string[];
  /** SHA-256 of certificates that the authority made it and that were not taken back, in hex. */
  readonly certificates: readonly string[];
}

/** One way in which a device of ours may ask. */
export interface AskingWay {
  readonly secret: string;
  /** Classes of groups where it is. */
  readonly classes: readonly GroupClass[];
  /** Somebody tries it out: nothing of it counts, and why not is told. */
  readonly trial: boolean;
}

/** A device of ours that asks. */
export interface Asking {
  readonly deviceId: string;
  readonly timeZone: string;
  readonly ways: readonly AskingWay[];
}

/** What the thread is told. */
export type ToThread =
  | {
      readonly type: 'users';
      readonly users: readonly KnownEntry[];
      readonly gone: readonly string[];
      readonly all: boolean;
    }
  | { readonly type: 'asking'; readonly mac: string; readonly asking: Asking | null }
  /** What the controller shows to whoever asks by TLS. */
  | { readonly type: 'certificate'; readonly cert: string; readonly key: string; readonly authority: string }
  /** The directory that is asked for users who are not kept here; null: none. */
  | { readonly type: 'directory'; readonly access: DirectoryAccess | null }
  /** Is somebody who they say they are, asked without RADIUS? */
  | ({ readonly type: 'prove'; readonly id: number } & ProofAsked)
  /** What is known of devices may not hold any more. */
  | { readonly type: 'forget' }
  | { readonly type: 'end' };

/** What the thread says. */
export type FromThread =
  | { readonly type: 'open'; readonly port: number }
  | { readonly type: 'shut'; readonly why: string }
  /** Who is the device of ours with this address? */
  | { readonly type: 'who'; readonly mac: string }
  | { readonly type: 'proved'; readonly id: number; readonly proof: Proof }
  /** A user was let in, with a device and by one of ours. */
  | { readonly type: 'came'; readonly userId: string; readonly mac: string | null; readonly deviceId: string }
  /** A user who is kept was turned away, and why. */
  | {
      readonly type: 'refused';
      readonly userId: string;
      readonly mac: string | null;
      readonly deviceId: string;
      readonly why: string;
    };

/** What it begins with. @param port 0: any free ones. */
export interface AnsweringStart {
  readonly host: string;
  readonly port: number;
}
