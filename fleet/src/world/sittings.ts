import { randomBytes } from 'node:crypto';
import type { ClassDocument } from '@iron-lattice/core/document';
import type { EnteredReport, NamedReport, TakenReport } from '@iron-lattice/core/line';

/** What somebody takes of the network who says nothing else, down and up, in kilobits a second. */
const USUAL_TAKE = [240, 32] as const;

/** Why a sitting ended (RFC 2866 §5.10). */
export type EndedBy = 'left' | 'session' | 'idle' | 'sent-away';

/** Somebody who was let in at a box. */
export interface Sitter {
  readonly mac: string;
  /** Name of the SSID or port. */
  readonly at: string;
  readonly wireless: boolean;
  /** When it came, in milliseconds since 1970. */
  readonly since: number;
  readonly address: string | null;
  readonly vlan: number;
  readonly accessClass?: ClassDocument | undefined;
  readonly entered?: EnteredReport | undefined;
  readonly named?: NamedReport | undefined;
  /** The server that named the key of a ring which it gave. */
  readonly keyedBy?: string | undefined;
  /** Kilobits a second down and up that it takes. */
  readonly takes?: readonly [down: number, up: number] | undefined;
}

/** How it fares. */
export interface Sitting extends Sitter {
  readonly id: string;
  /** Octets to it and from it so far. */
  readonly down: number;
  readonly up: number;
}

/** Who hears of sittings. */
export interface SittingEars {
  readonly began: (serial: string, sitting: Sitting) => void;
  readonly ended: (serial: string, sitting: Sitting, by: EndedBy) => void;
}

interface Held {
  sitting: Sitting;
  /** Since when its box says it is there, in the segment where it is. */
  reported: number;
  /** Until when octets are counted, in milliseconds since 1970. */
  counted: number;
  timer: NodeJS.Timeout | null;
  due: number;
}

/** Who sits at boxes, how much each took, and when its time there is over: by its class, or since nothing is heard of it. */
export class Sittings {
  private readonly held = new Map<string, Map<string, Held>>();
  /** Who sends nothing, and since when. */
  private readonly hushed = new Map<string, number>();
  /** Who was taken to be gone: it is, until it sends again. */
  private readonly gone = new Set<string>();
  private readonly endings = new Map<string, EndedBy>();
  ears: SittingEars | null = null;

  /**
   * @param over is told of somebody whose time at a box is over. @param hurry what part of times really passes.
   * @param slow kilobits a second that somebody is kept to who took so much; null: nothing keeps it.
   */
  constructor(
    private readonly over: (serial: string, mac: string) => void,
    private readonly hurry: () => number,
    private readonly slow: (serial: string, mac: string, taken: number) => number | null = () => null,
  ) {}

  /** Who sits at a box now, all of them: who is not named has left. @param wireless of which kind these are. */
  at(serial: string, wireless: boolean, sitters: readonly Sitter[]): void {
    const here = this.held.get(serial) ?? new Map<string, Held>();
    this.held.set(serial, here);
    const there = new Set(sitters.map(({ mac }) => mac));
    for (const [mac, held] of [...here])
      if (held.sitting.wireless === wireless && !there.has(mac)) this.leave(serial, here, mac, held);
    for (const sitter of sitters) this.sit(serial, here, sitter);
  }

  isHushed = (mac: string): boolean => this.hushed.has(mac);

  /** Somebody sends nothing any more, or again. */
  hush(mac: string, on: boolean): void {
    for (const [serial, here] of this.held) this.count(serial, here.get(mac));
    if (on) this.hushed.set(mac, this.hushed.get(mac) ?? Date.now());
    else {
      this.hushed.delete(mac);
      this.gone.delete(mac);
    }
  }

  isGone = (mac: string): boolean => this.gone.has(mac);

  /** Why somebody’s sitting is about to end, where that is not of its own. */
  ends(serial: string, mac: string, by: EndedBy): void {
    this.endings.set(`${serial} ${mac}`, by);
  }

  /** What everybody at a box took since they came. */
  takenAt(serial: string): TakenReport[] {
    return [...(this.held.get(serial)?.values() ?? [])].map((held) => {
      this.count(serial, held);
      const { mac, down, up } = held.sitting;
      return { mac, down: Math.round(down), up: Math.round(up) };
    });
  }

  /** Those who sit at a box, with what they took by now. */
  sittingsAt(serial: string): readonly Sitting[] {
    this.takenAt(serial);
    return [...(this.held.get(serial)?.values() ?? [])].map(({ sitting }) => sitting);
  }

  /** A box forgets who sits there, as one does that loses its power: nobody is told. */
  forget(serial: string): void {
    for (const { timer } of this.held.get(serial)?.values() ?? []) if (timer) clearTimeout(timer);
    this.held.delete(serial);
  }

  private sit(serial: string, here: Map<string, Held>, sitter: Sitter): void {
    const { mac, since, at, vlan } = sitter;
    const before = here.get(mac);
    // Who is put into another segment where it is sits on.
    const moved = before?.sitting.at === at && before.sitting.vlan !== vlan;
    if (before && !moved && (before.reported !== since || before.sitting.at !== at))
      this.leave(serial, here, mac, before);
    const held = here.get(mac);
    if (held) {
      this.count(serial, held);
      held.reported = since;
      held.sitting = { ...held.sitting, ...sitter, since: held.sitting.since };
    } else {
      const sitting: Sitting = { ...sitter, id: randomBytes(8).toString('hex'), down: 0, up: 0 };
      here.set(mac, { sitting, reported: since, counted: since, timer: null, due: Infinity });
      this.ears?.began(serial, sitting);
    }
    this.time(serial, here.get(mac)!);
  }

  private leave(serial: string, here: Map<string, Held>, mac: string, held: Held): void {
    this.count(serial, held);
    if (held.timer) clearTimeout(held.timer);
    here.delete(mac);
    const key = `${serial} ${mac}`;
    const by = this.endings.get(key) ?? 'left';
    this.endings.delete(key);
    this.ears?.ended(serial, held.sitting, by);
  }

  /** Counts what somebody took until now: no more than its class lets it. */
  private count(serial: string, held: Held | undefined): void {
    if (!held) return;
    const now = Date.now();
    const { sitting } = held;
    const until = Math.min(now, this.hushed.get(sitting.mac) ?? now);
    const seconds = Math.max(0, until - held.counted) / 1000;
    const [down, up] = sitting.takes ?? USUAL_TAKE;
    const most = sitting.accessClass?.client;
    const slow = this.slow(serial, sitting.mac, sitting.down + sitting.up) ?? Infinity;
    const octets = (kbps: number, cap: number | undefined): number =>
      (Math.min(kbps, cap ?? kbps, slow) * seconds * 1000) / 8;
    held.sitting = {
      ...sitting,
      down: sitting.down + octets(down, most?.down?.kbps),
      up: sitting.up + octets(up, most?.up?.kbps),
    };
    held.counted = now;
  }

  /** Waits for the moment at which a sitting is over. */
  private time(serial: string, held: Held): void {
    const { mac, since, accessClass } = held.sitting;
    const { session, idle } = accessClass ?? {};
    const part = 1000 * this.hurry();
    const quiet = this.hushed.get(mac);
    const ends = session === undefined ? Infinity : since + session * part;
    const fades = idle === undefined || quiet === undefined ? Infinity : quiet + idle * part;
    const due = Math.min(ends, fades);
    if (due === held.due) return;
    held.due = due;
    if (held.timer) clearTimeout(held.timer);
    held.timer = null;
    if (due === Infinity) return;
    held.timer = setTimeout(
      () => {
        held.timer = null;
        held.due = Infinity;
        if (fades <= ends) this.gone.add(mac);
        this.ends(serial, mac, fades <= ends ? 'idle' : 'session');
        this.over(serial, mac);
      },
      Math.min(Math.max(0, due - Date.now()), 2 ** 31 - 1),
    );
    held.timer.unref();
  }
}
