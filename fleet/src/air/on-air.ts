import { asksAt, ssidsAt, type ChannelDocument } from '@iron-lattice/core/document';
import { sheetFor, type Band } from '@iron-lattice/core/hardware';
import { fnv1a32 } from '@iron-lattice/core/address';
import type {
  ClientReport,
  HeardChannel,
  HeardNetwork,
  RadioReport,
  RefusedReport,
  ScanReport,
  SpeedGot,
  SpeedTry,
} from '@iron-lattice/core/line';
import {
  beaconMicros,
  beaconOctets,
  beaconShare,
  bestRate,
  CHANNELS,
  noiseFloor,
  type ToAll,
  type Width,
} from '@iron-lattice/core/radio';
import { dayOf } from '@iron-lattice/core/rules';
import { playSpeed, type Neighbour, type Played } from './speed-play';
import { abilityOf, understands, type AirAbility, type JoinedSsid } from './ability';
import { Air, busyAt, HEARD, MADE_OUT, meets, type OnAir as Stretch } from './air';
import type { AirFile } from './air-file';
import type { ApBox } from './ap-box';
import { chatter, chatterShare, type OnRadio } from './chatter';
import { Radios, type Antennas } from './radios';

/** How a client is joined on the air. */
export type Joined = Required<Pick<ClientReport, 'band' | 'signal' | 'width' | 'streams' | 'rate' | 'retries'>>;

/** EIRP of a client in dBm. */
const CLIENT_POWER = 15;
/** Below this signal in dBm a client looks for another band, and does not join at all. */
const [GOOD, LEAST] = [-72, -88];
/** Signal in dBm of the wider band from which a client that is steered is not answered at 2.4 GHz. */
const STEERED = -75;
/** Share of the air that an AP takes with each client that only keeps in touch. */
const CLIENT_SHARE = 0.015;
/** Signal in dBm at which a frame of old is made out, by its rate in Mb/s: 6 dB better than a receiver has to be (IEEE 802.11-2020 Table 17-18). */
const MADE_OUT_AT: Readonly<Record<number, number>> = { 9: -87, 12: -85, 18: -83, 24: -80, 36: -76, 48: -72, 54: -71 };
/** How long a beacon waits before it goes out, in microseconds. */
const BEACON_WAITS = 34;
/** How much louder than the noise of its receiver alone a channel is, in dB at the most. */
const MORE_NOISE = 4;
/** Signal in dBm below which an AP does not hang on another. */
const LEAST_BETWEEN = -82;
/** How long a radio listens on a channel in a scan, in milliseconds: a little longer than beacons are apart. */
const DWELL_MS = 110;

/** An AP's networks, on the air. */
interface Sent extends Stretch {
  readonly bssid: string;
  readonly ssid: string;
  readonly channel: number;
  readonly power: number;
  readonly security: string;
  readonly hidden?: boolean;
  /** Whose it is: a serial number, or its own BSSID. */
  readonly by: string;
  readonly share: number;
  readonly clients?: number;
  /** Frames to all that come for its clients, and what they take. */
  readonly toAll?: ToAll & { readonly share: number };
}

const SECURITY: Readonly<Record<string, string>> = {
  open: 'open',
  owe: 'OWE',
  'wpa2-psk': 'WPA2',
  'wpa2-wpa3-psk': 'WPA2/WPA3',
  'wpa3-sae': 'WPA3',
  'wpa2-enterprise': 'WPA2 802.1X',
  'wpa2-wpa3-enterprise': 'WPA2/WPA3 802.1X',
  'wpa3-enterprise': 'WPA3 802.1X',
  'wpa3-enterprise-192': 'WPA3 802.1X',
};

/** The air over all places: what radios send, who hears it, how clients are joined. */
export class OnAir {
  private readonly air: Air;
  private readonly radios: Radios;
  private readonly aps = new Map<
    string,
    { readonly box: Antennas; readonly group: string; clients: readonly OnRadio[] }
  >();
  private readonly byGroup = new Map<string, string[]>();
  /** How many clients APs of a place have, by network. */
  private readonly joined = new Map<string, Map<string, number>>();

  /** @param changed is told of an AP whose radios do something else by themselves. */
  constructor(file: AirFile | undefined, changed: (serial: string) => void) {
    this.air = new Air(file);
    const choose = (serial: string, band: Band, choices: readonly ChannelDocument[]) =>
      this.quietest(serial, band, choices);
    this.radios = new Radios(() => this.air.hurry, choose, changed);
  }

  /** An AP of a place. @param group whom it hears: those of one group. */
  addAp(box: Antennas, group: string): void {
    this.aps.set(box.device.serial, { box, group, clients: [] });
    this.byGroup.set(group, [...(this.byGroup.get(group) ?? []), box.device.serial]);
    this.air.putAp(box.device.serial, group);
  }

  /** What part of the times that are asked for is really waited. */
  get hurry(): number {
    return this.air.hurry;
  }
  set hurry(share: number) {
    this.air.hurry = share;
  }

  addClient = (mac: string, near: string): void => this.air.putClient(mac, near);
  /** An AP's document, or its power, is another. */
  run = (box: Antennas): void => this.radios.run(box);
  follow = (serial: string, band: Band, whom: string | null): void => this.radios.follow(serial, band, whom);
  /** Where a radio sends at this moment; null while it does not. */
  sendsOn = (serial: string, band: Band): ChannelDocument | null => this.radios.sendsOn(serial, band);
  radar = (serial: string): number => this.radios.radar(serial);

  /** The radios of an AP, as it tells of them. */
  reportsOf(serial: string, now = Date.now()): RadioReport[] {
    const ap = this.aps.get(serial);
    if (!ap) return [];
    return this.radios.bandsOf(serial).map((band): RadioReport => {
      const { state, at, told, until, left } = this.radios.radio(serial, band)!;
      const tuned = state === 'on' || state === 'listening' ? at : null;
      const sends = state === 'on' ? this.networksOf(serial, true).filter((each) => each.band === band) : [];
      return {
        band,
        state,
        ...(tuned ? { ...tuned, ...(told.power === undefined ? {} : { power: told.power }) } : {}),
        ...(until === null ? {} : { until: Math.round(until) }),
        ...(left && left.until > now ? { left: { channel: left.channel, until: Math.round(left.until) } } : {}),
        ...(tuned
          ? { busy: rounded(this.busyOn(serial, { band, ...tuned }, now)), noise: this.noiseAt(serial, band) }
          : {}),
        ...(sends.length > 0
          ? {
              sends: sends.map(({ ssid, bssid, toAll }) => ({
                ssid,
                bssid,
                ...(toAll ? { toAll: roundedToAll(toAll) } : {}),
              })),
            }
          : {}),
      };
    });
  }

  /**
   * How a client joins an SSID of the AP it stands near, or why no radio takes it.
   * @param least signal in dBm below which the SSID does not have it.
   */
  join(
    serial: string,
    mac: string,
    ability: AirAbility,
    ssid: JoinedSsid,
    least: number | undefined,
  ): Joined | Exclude<RefusedReport['why'], 'passphrase' | 'full'> {
    const ap = this.aps.get(serial);
    if (!ap) return 'off';
    const able = abilityOf(mac, ability);
    const common = ssid.bands.filter((band) => able.bands.includes(band) && this.radios.radio(serial, band));
    if (common.length === 0) return 'band';
    const day = dayOf(Date.now(), ap.box.document.site.timeZone);
    const understood = common.filter((band) => understands(ability, able.phy, ssid, asksAt(ssid, band, day)));
    if (understood.length === 0) return 'security';
    const on = understood.filter((band) => this.radios.sendsOn(serial, band));
    if (on.length === 0)
      return understood.some((band) => this.radios.radio(serial, band)!.state === 'listening') ? 'radar' : 'off';
    const links = on.flatMap((band): Joined[] => {
      const at = this.radios.sendsOn(serial, band)!;
      const power = this.radios.radio(serial, band)!.told.power ?? 0;
      const loss = this.air.loss(band, serial, mac);
      const [down, up] = [power - loss, CLIENT_POWER - loss];
      // Who does not make out its beacons does not find it.
      const madeOut = MADE_OUT_AT[this.radios.radio(serial, band)!.told.slowest ?? 0] ?? LEAST;
      if (Math.min(down, up) < LEAST || down < madeOut) return [];
      const width = Math.min(at.width, able.width) as Width;
      const radio = radioOf(ap.box, band)!;
      const streams = Math.min(able.streams, radio.streams);
      const best = bestRate(down - noiseFloor(width), { phy: able.phy, width, maxNss: streams, gi: 0.8 });
      if (!best) return [];
      const retries = rounded(Math.min(0.6, 0.04 + this.busyOn(serial, { band, ...at }, Date.now()) / 3));
      return [{ band, signal: Math.round(up), width, streams: best.nss, rate: Math.round(best.rate), retries }];
    });
    if (links.length === 0) return 'weak';
    const wide = links.some(({ band, signal }) => band !== '2.4' && signal >= STEERED);
    const answered = ssid.steer && wide ? links.filter(({ band }) => band !== '2.4') : links;
    const taken = answered.filter(({ signal }) => least === undefined || signal >= least);
    const strong = taken.filter(({ signal }) => signal >= GOOD);
    const liked = strong.find(({ band }) => band === ability.likes);
    return liked ?? (strong.length > 0 ? strong : taken).sort((a, b) => b.rate - a.rate)[0] ?? 'low';
  }

  /** What the air lets through to a probe that stands so far from an AP; null where no radio takes it. */
  trySpeed(
    serial: string,
    { band, metres, phy, streams, width, count = 1 }: SpeedTry,
  ): Omit<SpeedGot, 'down' | 'up' | 'narrowest' | 'each' | 'cap'> | null {
    const ap = this.aps.get(serial);
    const at = this.radios.sendsOn(serial, band);
    const power = this.radios.radio(serial, band)?.told.power;
    if (!ap || !at || power === undefined) return null;
    const probe = `probe ${serial} ${metres}`;
    this.air.putBeside(probe, serial, metres);
    const loss = this.air.loss(band, serial, probe);
    if (Math.min(power, CLIENT_POWER) - loss < LEAST) return null;
    const client = { name: probe, power: CLIENT_POWER, phy, streams, width };
    const { down, up, busy } = this.play(serial, band, at, power, client, count);
    const latency = Math.round((1.5 + (4 * busy) / Math.max(0.05, 1 - busy)) * 10) / 10;
    const tuned = { channel: at.channel, centre: at.centre, width: at.width, power };
    return { airDown: tenth(down), airUp: tenth(up), latency, signal: Math.round(power - loss), ...tuned };
  }

  /** What is between an AP that sends and one that would hang on it; null where too little is heard, or either does not send. */
  between(
    parent: string,
    child: string,
    band: Band,
  ): { readonly channel: number; readonly width: number; readonly signal: number; readonly rate: number } | null {
    const [on, from] = [this.aps.get(parent), this.aps.get(child)];
    const [at, power] = [this.radios.sendsOn(parent, band), this.radios.radio(parent, band)?.told.power];
    const own = this.radios.radio(child, band);
    if (!on || !from || !at || power === undefined || !own || own.told.off || this.radios.isScanning(child))
      return null;
    const signal = Math.min(power, own.told.power ?? power) - this.air.loss(band, parent, child);
    if (signal < LEAST_BETWEEN) return null;
    const [theirs, mine] = [on, from].map(({ box }) => radioOf(box, band)!);
    const width = Math.min(at.width, mine!.width) as Width;
    const maxNss = Math.min(theirs!.streams, mine!.streams);
    const best = bestRate(signal - noiseFloor(width), { phy: mine!.phy ?? 'HE', width, maxNss, gi: 0.8 });
    return best && { channel: at.channel, width, signal: Math.round(signal), rate: Math.round(best.rate) };
  }

  /** What the air lets through between an AP and one that hangs on it, in Mb/s; null where they do not hear each other. */
  tryBetween(parent: string, child: string, band: Band): { readonly down: number; readonly up: number } | null {
    const [on, from] = [this.aps.get(parent), this.aps.get(child)];
    const [at, power] = [this.radios.sendsOn(parent, band), this.radios.radio(parent, band)?.told.power];
    if (!on || !from || !at || power === undefined) return null;
    const { phy = 'HE', streams, width } = radioOf(from.box, band)!;
    const own = this.radios.radio(child, band)?.told.power ?? power;
    return this.play(parent, band, at, power, {
      name: child,
      power: own,
      phy,
      streams,
      width: Math.min(width, at.width),
    });
  }

  /** Plays what gets through between an AP and somebody it sends to, while all others send that are heard. */
  private play(serial: string, band: Band, at: ChannelDocument, power: number, client: Played['client'], count = 1) {
    const radio = radioOf(this.aps.get(serial)!.box, band)!;
    const now = Date.now();
    // Networks of one radio share its air: it is played once, by what all of them take.
    const others = new Map<string, Neighbour>();
    for (const { by, channel, centre, width: wide, power: loud, share, band: of } of this.around(serial, now, band)) {
      if (of !== band || by === client.name || !meets({ band, centre, width: wide }, { band, ...at })) continue;
      const known = others.get(by);
      others.set(by, {
        name: by,
        channel,
        centre,
        width: wide,
        power: loud,
        share: Math.min(0.95, share + (known?.share ?? 0)),
      });
    }
    const ap = { name: serial, power, phy: radio.phy ?? 'HE', streams: radio.streams } as const;
    const lossOf = (a: string, b: string): number => this.air.loss(band, a, b);
    return playSpeed({ band, at, ap, client, count }, [...others.values()], lossOf, Math.floor(now / 1000));
  }

  /** The clients that an AP has: they take a little of the air, and what is meant for all of them more. */
  has(serial: string, clients: readonly OnRadio[]): void {
    const ap = this.aps.get(serial);
    if (!ap) return;
    const joined = this.joined.get(ap.group) ?? new Map<string, number>();
    this.joined.set(ap.group, joined);
    for (const [list, by] of [
      [ap.clients, -1],
      [clients, 1],
    ] as const)
      for (const { ssid } of list) joined.set(ssid, (joined.get(ssid) ?? 0) + by);
    ap.clients = clients;
  }

  /** What an AP hears on bands while it leaves its clients alone. @param step is told how far it is; says whether to go on. */
  async scan(
    serial: string,
    bands: readonly Band[],
    step: (done: number, of: number) => boolean,
  ): Promise<ScanReport | null> {
    if (this.radios.isScanning(serial)) return null;
    const own = this.radios.bandsOf(serial).filter((band) => bands.includes(band));
    const channels = own.flatMap((band) =>
      CHANNELS[band].filter((channel) => channel !== 14).map((channel) => ({ band, channel })),
    );
    this.radios.scan(serial, true);
    try {
      const networks: HeardNetwork[] = [];
      const heard: HeardChannel[] = [];
      const of = Math.max(0, ...own.map((band) => channels.filter((each) => each.band === band).length));
      // Each radio goes through its own band, side by side.
      for (let done = 0; done < of; done++) {
        if (!step(done, of)) return null;
        await new Promise((resolve) => setTimeout(resolve, DWELL_MS * this.air.hurry));
        for (const band of own) {
          const channel = channels.filter((each) => each.band === band)[done]?.channel;
          if (channel === undefined) continue;
          const here = { band, centre: channel, width: 20 };
          const [busy, noise] = [rounded(this.busyOn(serial, here, Date.now())), this.noiseAt(serial, band)];
          heard.push({ band, channel, busy, noise });
          networks.push(...this.heardOn(serial, band, channel));
        }
      }
      return { networks, channels: heard };
    } finally {
      this.radios.scan(serial, false);
    }
  }

  /** Networks whose beacons are made out on a channel. */
  private heardOn(serial: string, band: Band, channel: number): HeardNetwork[] {
    return this.around(serial, Date.now(), band).flatMap((network): HeardNetwork[] => {
      if (network.band !== band || network.channel !== channel) return [];
      const signal = network.power - this.air.loss(band, serial, network.by);
      if (signal < MADE_OUT) return [];
      const { bssid, centre, width, security, share, clients } = network;
      const ssid = network.hidden ? '' : network.ssid;
      const load = clients === undefined ? {} : { clients, load: rounded(share) };
      return [{ bssid, ssid, band, channel, centre, width: width, signal: Math.round(signal), security, ...load }];
    });
  }

  /** All that others send around an AP at a band; strangers at any. */
  private around(serial: string, now: number, band: Band): Sent[] {
    const group = this.byGroup.get(this.aps.get(serial)!.group) ?? [];
    const ours = group.filter((other) => other !== serial).flatMap((other) => this.networksOf(other, false, band));
    const strangers = this.air.strangersNear(serial).map((stranger): Sent => {
      return { ...stranger, by: stranger.bssid, share: busyAt(stranger, now) };
    });
    return [...ours, ...strangers];
  }

  /** What an AP sends. @param meant also while it leaves its channels to scan. */
  private networksOf(serial: string, meant: boolean, only?: Band): Sent[] {
    const { box, clients, group } = this.aps.get(serial)!;
    const { document } = box;
    if (document.kind !== 'ap' || !box.powered) return [];
    return this.radios.bandsOf(serial).flatMap((band) => {
      if (only !== undefined && band !== only) return [];
      const radio = this.radios.radio(serial, band);
      const at = meant ? (radio?.at ?? null) : this.radios.sendsOn(serial, band);
      const power = radio?.told.power;
      if (!at || power === undefined) return [];
      const sent = ssidsAt(document, Date.now()).filter(({ bands }) => bands.includes(band));
      const rate = radio?.told.slowest ?? (band === '2.4' ? 1 : 6);
      return sent.map((ssid, i): Sent => {
        const { name, security, hidden } = ssid;
        const micros = beaconMicros(beaconOctets(band, hidden ? 0 : Buffer.byteLength(name)), rate, band)!;
        const beacons = beaconShare(micros, 1, 1, { access: BEACON_WAITS }).share;
        const here = clients.filter((client) => client.ssid === name && client.band === band);
        const frames = chatter(this.joined.get(group)?.get(name) ?? 0);
        const passed = chatterShare(frames, ssid, { rate, band }, here);
        const share = beacons + (CLIENT_SHARE * clients.length) / sent.length + passed;
        const words = SECURITY[security] ?? security;
        return {
          bssid: bssidOf(box.device, band, i),
          ssid: name,
          band,
          ...at,
          power,
          security: words,
          hidden: hidden ?? false,
          by: serial,
          share: Math.min(0.95, share),
          clients: clients.length,
          toAll: { ...frames, share: Math.min(1, passed) },
        };
      });
    });
  }

  /** Share of the time in which others send on a stretch, so that an AP has to wait. */
  private busyOn(serial: string, stretch: Stretch, now: number): number {
    let idle = 1;
    for (const other of this.around(serial, now, stretch.band)) {
      if (!meets(other, stretch)) continue;
      const heard = other.power - this.air.loss(stretch.band, serial, other.by) - 10 * Math.log10(other.width / 20);
      if (heard >= HEARD) idle *= 1 - other.share;
    }
    return 1 - idle;
  }

  private noiseAt = (serial: string, band: Band): number =>
    Math.round(noiseFloor(20)) + (fnv1a32(new TextEncoder().encode(`${serial} ${band}`)) % MORE_NOISE);

  /** The choice that the least is sent on; of equal ones not all APs take the first. */
  private quietest(serial: string, band: Band, choices: readonly ChannelDocument[]): ChannelDocument {
    const shift = fnv1a32(new TextEncoder().encode(`${serial} ${band}`)) % choices.length;
    const turned = [...choices.slice(shift), ...choices.slice(0, shift)];
    const busy = (at: ChannelDocument): number => this.busyOn(serial, { band, ...at }, Date.now());
    return turned.map((at) => ({ at, busy: busy(at) })).sort((a, b) => a.busy - b.busy)[0]!.at;
  }
}

/** The identity of one of an AP's networks: made of its address, as locally administered ones are (IEEE 802-2014 §8.2.2). */
const bssids = new WeakMap<ApBox, Map<string, string>>();
function bssidOf(box: ApBox, band: Band, index: number): string {
  const made = bssids.get(box) ?? new Map<string, string>();
  bssids.set(box, made);
  const key = `${band} ${index}`;
  const known = made.get(key);
  if (known !== undefined) return known;
  const octets = box.mac.split(':').map((part) => parseInt(part, 16));
  octets[0] = (octets[0]! | 0x02) ^ 0x40;
  octets[1] = (octets[1]! + 0x10 * (1 + ['2.4', '5', '6'].indexOf(band))) & 0xff;
  octets[2] = (octets[2]! + index) & 0xff;
  const bssid = octets.map((octet) => octet.toString(16).padStart(2, '0')).join(':');
  made.set(key, bssid);
  return bssid;
}

/** The radio of an AP for a band. */
const radioOf = ({ device }: Antennas, band: Band) => sheetFor(device).radios.find((each) => each.band === band);

const tenth = (speed: number): number => Math.round(speed * 10) / 10;
const rounded = (share: number): number => Math.round(share * 100) / 100;

const roundedToAll = ({ perSecond, octets, share }: ToAll & { readonly share: number }) => ({
  ...{ perSecond: Math.round(perSecond * 10) / 10, octets },
  share: Math.round(share * 10_000) / 10_000,
});
