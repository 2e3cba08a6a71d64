import { sheetFor, type Band } from '@iron-lattice/core/hardware';
import type { DeviceView } from '@iron-lattice/core/intake';
import {
  radioSetting,
  type RadioFields,
  type RadioSetting,
  type RosterDevice,
  type SitePart,
} from '@iron-lattice/core/intent';
import type { RadioReport } from '@iron-lattice/core/line';
import { channelWords } from '@iron-lattice/core/regulation';

/** One radio as tables and sheets show it: what is said of it, and what it does. */
export interface RadioRow {
  /** `device band`. */
  readonly key: string;
  readonly device: RosterDevice;
  readonly band: Band;
  readonly setting: RadioSetting;
  /** As it last reported; null while it did not. */
  readonly fact: RadioReport | null;
  readonly clients: number;
  /** Name of the AP that it hangs on by this radio now, so that it sends where that does; null: none. */
  readonly hangsOn: string | null;
}

/** Every radio of a site’s APs, in the order of names and bands. */
export function radioRows(site: SitePart, roster: readonly RosterDevice[], views: readonly DeviceView[]): RadioRow[] {
  const facts = new Map(views.map((view) => [view.id, view]));
  const names = new Map(views.map(({ mac, name }) => [mac, name ?? mac]));
  return roster.flatMap((device) => {
    const view = facts.get(device.id);
    return sheetFor(device).radios.map(({ band }): RadioRow => ({
      key: `${device.id} ${band}`,
      device,
      band,
      setting: radioSetting(site, device, band),
      fact: view?.radioFacts.find((each) => each.band === band) ?? null,
      clients: view?.clients.filter((client) => client.band === band).length ?? 0,
      hangsOn: view?.mesh?.band === band ? (names.get(view.mesh.parent) ?? view.mesh.parent) : null,
    }));
  });
}

const SAID: Readonly<Record<keyof RadioFields, string>> = {
  on: 'on or off',
  channel: 'channel',
  width: 'width',
  power: 'power',
  fixed: 'fixed',
};

/** What is said of a radio alone, in words. */
export const ownWords = ({ setting }: RadioRow): string => setting.own.map((key) => SAID[key]).join(', ');

/** The channel that is meant. */
export function channelSaid({ setting, band }: RadioRow): string {
  const { on, at, choices, channel } = setting;
  if (!on) return 'off';
  if (at) return `${at.channel}`;
  if (channel !== null) return `${channel}, not legal here`;
  if (choices.length === 0) return 'none is legal here';
  return `free: ${channelWords(
    band,
    choices.map((each) => each.channel),
  )}`;
}

/** The width that comes of it, in MHz; empty where nothing is sent. */
export const widthSaid = ({ setting }: RadioRow): string =>
  setting.on && setting.eirp !== null ? `${setting.at?.width ?? setting.choices[0]?.width ?? setting.width}` : '';

/** The power that comes of it, in dBm; empty where nothing is sent. */
export const powerSaid = ({ setting }: RadioRow): string =>
  setting.on && setting.eirp !== null ? `${setting.eirp}` : '';

/** How much longer something lasts, in words. @param now in milliseconds since 1970. */
export function stillWords(until: number, now: number): string {
  const seconds = Math.max(0, Math.round((until - now) / 1000));
  return seconds < 120 ? `${seconds} s` : `${Math.round(seconds / 60)} min`;
}

/** What a radio does at this moment. @param now in milliseconds since 1970. */
export const airWords = ({ fact, hangsOn }: RadioRow, now: number): string =>
  factWords(fact, now) + (hangsOn === null ? '' : `, with ${hangsOn}`);

/** What a radio reported, in words. @param now in milliseconds since 1970. */
export function factWords(fact: RadioReport | null, now: number): string {
  if (!fact) return 'not reported yet';
  const { state, channel, width, power, until, left } = fact;
  const on = `${channel} · ${width} MHz · ${power} dBm`;
  const since = left ? `, left ${left.channel}: radar, rests ${stillWords(left.until, now)}` : '';
  switch (state) {
    case 'on':
      return on + since;
    case 'listening':
      return `${channel}: listens for radar, ${stillWords(until ?? now, now)}`;
    case 'silent':
      return `silent${since || `: its channel rests ${stillWords(until ?? now, now)}`}`;
    case 'idle':
      return 'has no SSID to send';
    case 'off':
      return 'off';
  }
}

/** Whether a radio does not what is meant, though it was told: it left for radar, listens, or has nowhere to go. */
export const isElsewhere = ({ fact }: RadioRow): boolean =>
  fact !== null && (fact.state === 'listening' || fact.state === 'silent' || fact.left !== undefined);
