import type { FirstUplink } from '@iron-lattice/core/document';
import type { HardwareSheet } from '@iron-lattice/core/hardware';
import type { ControllerFrame, DeviceFrame, Report } from '@iron-lattice/core/line';
import type { Device } from '../roster/device.model';

type Of<T extends DeviceFrame['type']> = Extract<DeviceFrame, { type: T }>;

/** Why a device is not let in. */
export interface Refusal {
  readonly code: string;
  readonly reason: string;
}

/** A device on the line that said something. */
export interface Speaker {
  readonly deviceId: string;
  readonly serial: string;
}

/** What the line tells one part of the controller of what devices do; a part says only what it wants to hear. */
export interface LineListener {
  /** A device speaks another version of the line. */
  readonly stranger?: (hello: Of<'hello'>, from: string, reason: string) => Promise<void>;
  /**
   * Whether a device that proved itself may come in, before anything of it is written down.
   * @param known its row, if it called before or was announced.
   * @param from where it calls from.
   * @returns why not, or the sheet of a model that none is shipped of.
   */
  readonly admits?: (
    hello: Of<'hello'>,
    known: Device | null,
    from: string,
  ) => Promise<Refusal | { readonly sheet: HardwareSheet | null }>;
  /** A box in factory state says how it comes to an address by what somebody said at its own page; null: nothing was said. */
  readonly first?: (device: Device, first: FirstUplink<string> | null) => Promise<void>;
  /** A device called and its row is up to date. @returns false where it may not be told documents. */
  readonly called?: (device: Device, hello: Of<'hello'>, now: number) => Promise<boolean>;
  /** It has been welcomed, and may be asked things. */
  readonly welcomed?: (device: Device) => Promise<void>;
  /** An expected device calls: takes it in when it can be. */
  readonly expected?: (device: Device) => Promise<void>;
  /** It says how something goes on that it was asked for. */
  readonly progress?: (frame: Of<'progress'>) => Promise<void>;
  /** It says how far it has a key ring. */
  readonly ringAt?: (speaker: Speaker, frame: Of<'ring-at'>) => Promise<void>;
  /** It asks whom of those that a portal holds it lets in, or says that it does as it was told of them. */
  readonly guests?: (speaker: Speaker, frame: Of<'guests-ask'> | Of<'guests-told'>) => Promise<void>;
  /** It says how far a scan of the air is. */
  readonly scanning?: (frame: Of<'progress'>) => Promise<void>;
  /** It says how the update goes on that it was asked for. */
  readonly firmware?: (speaker: Speaker, frame: Of<'firmware-progress'> | Of<'firmware-failed'>) => Promise<void>;
  /** It reported. @param rules finds the rules that it was told, by what it runs. */
  readonly reported?: (speaker: Speaker, report: Report, rules: () => Promise<ReadonlySet<string>>) => Promise<void>;
  /** Somebody changed at it what it runs; its row says what that is now. */
  readonly changed?: (speaker: Speaker) => Promise<void>;
  /** It tells what it runs, as it was asked. */
  readonly toldBack?: (speaker: Speaker, frame: Of<'told-back'>) => Promise<void>;
  /** It runs what it should, having run something that nobody told it. */
  readonly putRight?: (speaker: Speaker) => Promise<void>;
  /** Its clock is right now, or is not any more. */
  readonly clock?: (speaker: Speaker, clock: number, now: number) => Promise<unknown>;
  /** Its line ended, and no other of it is held here. */
  readonly left?: (speaker: Speaker) => Promise<void>;
  /** What it said cannot be taken. @param what happened, to follow “It …”. */
  readonly untaken?: (speaker: Speaker, what: string) => Promise<void>;
}

/** What others may say on lines that this process holds. */
export interface Lines {
  /** @returns whether this process holds the device's line. */
  readonly holds: (deviceId: string) => boolean;
  readonly say: (deviceId: string, frame: ControllerFrame) => void;
}
