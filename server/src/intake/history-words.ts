import { lastsWords } from '@iron-lattice/core/base';

type Detail = Readonly<Record<string, unknown>>;

const text = (detail: Detail, key: string): string => {
  const value = detail[key];
  return typeof value === 'string' ? value : value === undefined || value === null ? '' : JSON.stringify(value);
};

/** How entries of the journal read in a device's history. */
const WORDS: Readonly<Record<string, (detail: Detail) => string>> = {
  'device.first-uplink': (d) =>
    d['port'] === null
      ? 'Nothing is said at its own page any more of how it comes to an address.'
      : `Calls by ${text(d, 'port')} as somebody said at its own page.`,
  'device.claim': (d) => `Claimed as ${text(d, 'name')}${d['handsFree'] ? ', as it was expected' : ''}.`,
  'device.expect': () => 'Announced: expected from then on.',
  'device.rename': (d) => `Renamed from ${text(d, 'from')} to ${text(d, 'to')}.`,
  'device.address': (d) =>
    d['to'] === null ? 'Asks for its address from now on.' : `Given the fixed address ${text(d, 'to')}.`,
  'device.purpose': (d) => (d['to'] ? `Said to be for: ${text(d, 'to')}.` : 'What it is for taken away.'),
  'device.light': (d) => (d['off'] ? 'Status light switched off.' : 'Status light switched on.'),
  'device.tags': (d) => `Tags: ${(d['to'] as string[]).join(', ') || 'none'}.`,
  'device.policy': (d) => `Firmware policy: ${POLICY_WORDS[text(d, 'to')] ?? text(d, 'to')}.`,
  'device.move': (d) => `Moved from ${text(d, 'from')} to ${text(d, 'to')}.`,
  'device.release': (d) => `Released from ${text(d, 'from')}.`,
  'device.replace': (d) => `The box ${text(d, 'from')} was replaced by ${text(d, 'to')}.`,
  'device.restart': () => 'Restarted.',
  'device.capture': (d) => `Packets captured on ${text(d, 'target') || 'all ports'}.`,
  'device.disconnect': (d) => `Client ${text(d, 'target')} disconnected.`,
  'device.session': (d) => `Session of ${text(d, 'target')}, as its server wanted.`,
  'device.bring-back': () => 'Told to use again what is good of its uplinks.',
  'device.forget': () => 'Told to forget its document.',
  'firmware.update': (d) => `Update from ${text(d, 'from')} to ${text(d, 'to')} asked for.`,
  'firmware.done': (d) => `Updated from ${text(d, 'from')} to ${text(d, 'to')}.`,
  'firmware.failed': (d) => `The update to ${text(d, 'to')} failed: ${text(d, 'reason')}`,
  'radio.radar': (d) => `Heard radar on channel ${text(d, 'channel')} at ${text(d, 'band')} GHz, and left it.`,
  'path.gone': (d) => `Uplink ${text(d, 'port')} is gone: ${text(d, 'why')} ${usesWords(d)}`,
  'path.back': (d) => `Uplink ${text(d, 'port')} is good again. ${usesWords(d)}`,
  'path.used': (d) => usesWords(d),
  'path.started': (d) => `It has power again. ${usesWords(d)}`,
  'path.steered': (d) => `The course “${text(d, 'course')}” leaves otherwise. ${usesWords(d)}`,
  'path.tunnel-down': (d) => `No tunnel any more to ${text(d, 'course')}: ${text(d, 'why')}`,
  'path.tunnel-up': (d) => `The tunnel to ${text(d, 'course')} is up.`,
  'path.route-gone': (d) => `The route ${text(d, 'course')} is gone: ${text(d, 'why')}`,
  'path.route-back': (d) => `The route ${text(d, 'course')} is there again.`,
  'path.pact-down': (d) => `The tunnel ${text(d, 'course')} stands no more: ${text(d, 'why')}`,
  'path.pact-up': (d) => `The tunnel ${text(d, 'course')} stands.`,
  'path.took-over': (d) => `It routes now: ${text(d, 'why')} ${usesWords(d)}`,
  'path.stands-by': () => 'It stands by, and the other of its pair routes.',
  'path.rehearsal-kept': (d) => `The rehearsal “${text(d, 'name')}” was kept.`,
  'path.rehearsal-dropped': (d) => `The rehearsal “${text(d, 'name')}” is kept no longer.`,
  'path.rehearsal-failed': (d) =>
    `The kept rehearsal “${text(d, 'name')}” would have somebody wait ${text(d, 'worst')} s, which was to be ${text(d, 'most')} s at most.`,
  'path.by-hand': (d) => `Uplinks that are good were taken again by hand. ${usesWords(d)}`,
  'path.drill': (d) =>
    `A rehearsal was played on its uplinks: ${text(d, 'mishaps')} ${d['mishaps'] === 1 ? 'mishap' : 'mishaps'}.`,
  'path.flapping': (d) =>
    `Its uplinks change too often to write each change down: ${text(d, 'count')} more within the hour.`,
  'guests.answer': (d) =>
    `A guest here was ${d['yes'] ? `let in for ${lastsWords(Number(d['minutes']))}` : 'refused'} by ${text(d, 'by')}.`,
  'guests.guessing': (d) => `Visit codes were tried wrongly by ${text(d, 'mac')} until no more were taken for a while.`,
  'hitch.retry': (d) => `Tried again: ${text(d, 'code')}.`,
  'hitch.dismiss': (d) => `Hitch taken off the list: ${text(d, 'code')}.`,
};
function usesWords(detail: Detail): string {
  const uses = detail['uses'] as readonly string[];
  return uses.length === 0 ? 'No uplink is used.' : `It leaves by ${uses.join(', ')}.`;
}
const POLICY_WORDS: Readonly<Record<string, string>> = {
  leave: 'left as it is',
  window: 'kept current in the site’s window',
  'at-once': 'updated as soon as it is taken in',
};

/** An entry of the journal as one sentence. */
export function historyWords(act: string, detail: Detail): string {
  if (act.startsWith('hitch.') && 'reason' in detail) return text(detail, 'reason');
  return WORDS[act]?.(detail) ?? `${act}.`;
}
