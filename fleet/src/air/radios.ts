import type { ChannelDocument, DeviceDocument, RadioDocument } from '@iron-lattice/core/document';
import { sheetFor, type Band } from '@iron-lattice/core/hardware';
import type { RadioReport } from '@iron-lattice/core/line';
import type { ApBox } from './ap-box';
import { startsFor, membersOf, usualRadio } from './tuning';

/** An AP as far as its radios go. */
export interface Antennas {
  readonly device: ApBox;
  readonly document: DeviceDocument;
  readonly powered: boolean;
}

type State = RadioReport['state'];
interface Radio {
  /** What it was started for. */
  key: string;
  told: RadioDocument;
  state: State;
  at: ChannelDocument | null;
  /** When its listening, or its silence, ends. */
  until: number | null;
  /** The channel it left since radar was heard there, and until when that rests. */
  left: { readonly channel: number; readonly until: number } | null;
  timer: NodeJS.Timeout | null;
}

/** Radios of APs: they take their channels, listen for radar where it has the right of way, and leave when they hear it. */
export class Radios {
  private readonly of = new Map<string, Map<Band, Radio>>();
  /** Until when channels of 20 MHz rest, by AP and band. */
  private readonly rests = new Map<string, Map<number, number>>();
  private readonly scanning = new Set<string>();
  /** Radios that send where another AP does, since theirs hangs on it: by AP and band, its serial number. */
  private readonly follows = new Map<string, string>();

  /**
   * @param hurry what part of the times that the law asks for is waited.
   * @param choose of several channels the one that a radio takes by itself.
   * @param changed is told of an AP of which a radio does something else now, by itself.
   */
  constructor(
    private readonly hurry: () => number,
    private readonly choose: (serial: string, band: Band, choices: readonly ChannelDocument[]) => ChannelDocument,
    private readonly changed: (serial: string) => void,
  ) {}

  /** Has the radios of an AP do what its document says now. */
  run({ device, document, powered }: Antennas): void {
    const { serial } = device;
    if (document.kind !== 'ap') return;
    const radios = this.of.get(serial) ?? new Map<Band, Radio>();
    this.of.set(serial, radios);
    for (const { band } of sheetFor(device).radios) {
      const told = document.radios?.find((each) => each.band === band) ?? usualRadio(device, document, band);
      const sends = powered && document.ssids.some(({ bands }) => bands.includes(band));
      const key = sends ? startsFor(document, told) : '';
      const before = radios.get(band);
      if (before?.key === key) {
        before.told = told;
        continue;
      }
      if (before?.timer) clearTimeout(before.timer);
      const radio: Radio = { key, told, state: 'idle', at: null, until: null, left: before?.left ?? null, timer: null };
      radios.set(band, radio);
      if (told.off) radio.state = 'off';
      else if (sends) this.start(serial, radio);
    }
  }

  /** A radio as it is now; null where the AP has none for the band. */
  radio(serial: string, band: Band): Pick<Radio, 'state' | 'at' | 'told' | 'until' | 'left'> | null {
    return this.of.get(serial)?.get(band) ?? null;
  }

  /** Has a radio send where that of another AP does; null: where it is told. */
  follow(serial: string, band: Band, whom: string | null): void {
    const key = `${serial} ${band}`;
    const radio = this.of.get(serial)?.get(band);
    if (whom === null) {
      if (this.follows.delete(key) && radio?.key && !radio.told.off) this.start(serial, radio);
      return;
    }
    this.follows.set(key, whom);
    const at = this.sendsOn(whom, band);
    if (!radio || !at) return;
    if (radio.timer) clearTimeout(radio.timer);
    Object.assign(radio, { at, until: null, timer: null, state: 'on' });
  }

  bandsOf = (serial: string): readonly Band[] => [...(this.of.get(serial)?.keys() ?? [])];

  /** Where a radio sends at this moment; null while it does not. */
  sendsOn(serial: string, band: Band): ChannelDocument | null {
    const radio = this.of.get(serial)?.get(band);
    return radio?.state === 'on' && !this.scanning.has(serial) ? radio.at : null;
  }

  /** A scan takes an AP off its channels, and back. */
  scan(serial: string, on: boolean): void {
    if (on) this.scanning.add(serial);
    else this.scanning.delete(serial);
    this.changed(serial);
  }
  isScanning = (serial: string): boolean => this.scanning.has(serial);

  /** Radar is heard where an AP stands: radios that use or try its channels leave at once. @returns how many did. */
  radar(serial: string): number {
    let gone = 0;
    for (const radio of this.of.get(serial)?.values() ?? []) {
      const { told, at } = radio;
      if (!told.radar || !told.at || !at || at.centre !== told.at.centre) continue;
      if (radio.state !== 'on' && radio.state !== 'listening') continue;
      const until = Date.now() + told.radar.rest * 1000 * this.hurry();
      const rests = this.restsOf(serial, told.band);
      for (const channel of membersOf(told.band, at)) rests.set(channel, until);
      radio.left = { channel: told.at.channel, until };
      this.start(serial, radio);
      gone++;
    }
    if (gone > 0) this.changed(serial);
    return gone;
  }

  private restsOf(serial: string, band: Band): Map<number, number> {
    const key = `${serial} ${band}`;
    let rests = this.rests.get(key);
    if (!rests) this.rests.set(key, (rests = new Map<number, number>()));
    return rests;
  }

  private start(serial: string, radio: Radio): void {
    const { told } = radio;
    if (radio.timer) clearTimeout(radio.timer);
    Object.assign(radio, { until: null, timer: null });
    if (!told.at) {
      radio.at = this.choose(serial, told.band, told.choices ?? []);
      radio.state = 'on';
      return;
    }
    const rests = this.restsOf(serial, told.band);
    const restUntil = Math.max(0, ...membersOf(told.band, told.at).map((channel) => rests.get(channel) ?? 0));
    if (restUntil > Date.now()) {
      radio.at = told.radar?.refuge ?? null;
      radio.state = radio.at ? 'on' : 'silent';
      if (!radio.at) radio.until = restUntil;
      // Once the channel has rested, it is listened to anew.
      return this.later(serial, radio, restUntil - Date.now(), () => this.start(serial, radio));
    }
    radio.at = told.at;
    radio.left = null;
    const listens = (told.radar?.listen ?? 0) * 1000 * this.hurry();
    radio.state = told.radar ? 'listening' : 'on';
    if (!told.radar) return;
    radio.until = Date.now() + listens;
    this.later(serial, radio, listens, () => {
      radio.state = 'on';
      radio.until = null;
    });
  }

  private later(serial: string, radio: Radio, ms: number, then: () => void): void {
    radio.timer = setTimeout(() => {
      radio.timer = null;
      then();
      this.changed(serial);
    }, ms).unref();
  }
}
