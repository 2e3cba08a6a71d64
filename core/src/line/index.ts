export {
  LINE_PATH,
  LINE_VERSION,
  proofText,
  readControllerFrame,
  readDeviceFrame,
  type ControllerFrame,
  type DeviceFrame,
  type ReadFrame,
} from './frame';
export { firstShape } from './frames/greeting';
export * from './frames/entered';
export * from './frames/clients';
export * from './frames/report';
export {
  COMMANDS,
  LONGEST_DRILL,
  mishapsShape,
  MOST_MISHAPS,
  BUSY_SECONDS,
  MOST_BUSY,
  type BusyShare,
  type Capacity,
  type DrilledMishap,
  type CapturedPacket,
  type CommandName,
  type ProbeTry,
  type SweepFind,
} from './frames/commands';
export * from './frames/scan';
export * from './frames/speed';
export { credentialsShape, type EntryTry } from './frames/entry';
export { KEYS_A_FRAME } from './frames/ring';
export { GUESTS_A_FRAME, type GuestWord } from './frames/guests';
