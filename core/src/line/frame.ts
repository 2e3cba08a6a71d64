import { Joi, type ObjectSchema, type Schema } from '../schema';
import { commandFrames, type CommandFromController, type CommandFromDevice } from './frames/commands';
import { documentFrames, type DocumentFromController, type DocumentFromDevice } from './frames/documents';
import { firmwareFrames, type FirmwareFromController, type FirmwareFromDevice } from './frames/firmware';
import { greetingFrames, type GreetingFromController, type GreetingFromDevice } from './frames/greeting';
import { guestFrames, type GuestsFromController, type GuestsFromDevice } from './frames/guests';
import { ringFrames, type RingFromController, type RingFromDevice } from './frames/ring';
import { reportFrames, type ReportFromDevice } from './frames/report';

/** Version of the device line; both ends refuse another major number. */
export const LINE_VERSION = 1;
/** Path of the WebSocket. */
export const LINE_PATH = '/line';
/** What a device signs: this label, the serial number and the controller's nonce, each on a line. */
export const proofText = (serial: string, nonce: string): string =>
  `iron-lattice line ${LINE_VERSION}\n${serial}\n${nonce}`;

/** What a device says. */
export type DeviceFrame =
  | GreetingFromDevice
  | DocumentFromDevice
  | ReportFromDevice
  | CommandFromDevice
  | FirmwareFromDevice
  | RingFromDevice
  | GuestsFromDevice;
/** What the controller says. */
export type ControllerFrame =
  | GreetingFromController
  | DocumentFromController
  | CommandFromController
  | FirmwareFromController
  | RingFromController
  | GuestsFromController;

type Fields = Readonly<Record<string, Schema>>;
/** The fields of each frame, by its type; a topic has a line. */
const DEVICE_FRAMES: Readonly<Record<DeviceFrame['type'], Fields>> = {
  ...greetingFrames.device,
  ...documentFrames.device,
  ...reportFrames.device,
  ...commandFrames.device,
  ...firmwareFrames.device,
  ...ringFrames.device,
  ...guestFrames.device,
};
const CONTROLLER_FRAMES: Readonly<Record<ControllerFrame['type'], Fields>> = {
  ...greetingFrames.controller,
  ...documentFrames.controller,
  ...commandFrames.controller,
  ...firmwareFrames.controller,
  ...ringFrames.controller,
  ...guestFrames.controller,
};

/** One schema a frame type; unknown types and unknown fields are refused. */
const schemasOf = (frames: Readonly<Record<string, Fields>>): Readonly<Record<string, ObjectSchema>> =>
  Object.fromEntries(
    Object.entries(frames).map(([type, fields]) => [
      type,
      Joi.object({ type: Joi.string().valid(type).required(), ...fields }),
    ]),
  );
export const DEVICE_SCHEMAS = schemasOf(DEVICE_FRAMES);
export const CONTROLLER_SCHEMAS = schemasOf(CONTROLLER_FRAMES);

/** A frame, or why the text is none. */
export type ReadFrame<T> = { readonly ok: true; readonly frame: T } | { readonly ok: false; readonly reason: string };

/** Reads what a device sent. */
export const readDeviceFrame = (text: string): ReadFrame<DeviceFrame> => read(text, DEVICE_SCHEMAS);
/** Reads what the controller sent. */
export const readControllerFrame = (text: string): ReadFrame<ControllerFrame> => read(text, CONTROLLER_SCHEMAS);

function read<T>(text: string, schemas: Readonly<Record<string, ObjectSchema>>): ReadFrame<T> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { ok: false, reason: 'not JSON' };
  }
  const type = typeof value === 'object' && value !== null ? (value as { type?: unknown }).type : undefined;
  const schema = typeof type === 'string' && Object.hasOwn(schemas, type) ? schemas[type] : undefined;
  if (!schema) return { ok: false, reason: `unknown frame type ${String(type).slice(0, 40)}` };
  const { error } = schema.validate(value, { convert: false });
  return error ? { ok: false, reason: error.message } : { ok: true, frame: value as T };
}
