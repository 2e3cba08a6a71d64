/** What a router is to the addresses that it shares with another (RFC 9568 §6.4). */
export const VRRP_STATES = ['initialize', 'backup', 'active'] as const;
export type VrrpState = (typeof VRRP_STATES)[number];

/** A router that shares addresses with another, as both know it. */
export interface VrrpSelf {
  /** RFC 9568 §5.2.4: from 1 to 254. */
  readonly priority: number;
  /** Hundredths of a second between its advertisements while it is active (Advertisement_Interval, §6.1). */
  readonly advert: number;
  /** Its own address as a number: between two that are active and alike the higher goes on. */
  readonly address: bigint;
}

/** What one that is active tells the others (RFC 9568 §5.2); a priority of 0: it steps down. */
export interface Advertisement {
  readonly priority: number;
  readonly advert: number;
  readonly address: bigint;
}

/** Milliseconds by which one of a lower priority waits longer: Skew_Time (RFC 9568 §6.1). */
export const skewMs = (priority: number, advert: number): number => (((256 - priority) * advert) / 256) * 10;

/** Milliseconds without an advertisement after which one that stands by is active: Active_Down_Interval (RFC 9568 §6.1). */
export const downMs = (priority: number, advert: number): number => 3 * advert * 10 + skewMs(priority, advert);

/**
 * The state machine of a virtual router (RFC 9568 §6.4) with Preempt_Mode on and no router that owns the addresses. Time is told from outside, in
 * milliseconds: whoever runs it asks for `due`, and calls `pass` then.
 */
export class Vrrp {
  private now: VrrpState = 'initialize';
  /** When the Active_Down_Timer or the Adver_Timer fires; null: none runs. */
  private timer: number | null = null;
  /** Active_Adver_Interval: what the active one was last heard to say of itself. */
  private interval: number;

  constructor(
    private self: VrrpSelf,
    /** Sends an advertisement. */
    private readonly send: (advertisement: Advertisement) => void,
  ) {
    this.interval = self.advert;
  }

  get state(): VrrpState {
    return this.now;
  }

  /** When something falls due by itself, in milliseconds; null: nothing does. */
  get due(): number | null {
    return this.timer;
  }

  /** It begins to take part (§6.4.1). */
  start(at: number): void {
    if (this.now !== 'initialize') return;
    this.interval = this.self.advert;
    this.timer = at + downMs(this.self.priority, this.interval);
    this.now = 'backup';
  }

  /** It takes part no more (§6.4.2, §6.4.3). @param quietly it cannot say so any more: it has no power. */
  stop(quietly = false): void {
    if (this.now === 'active' && !quietly) this.send({ ...this.self, priority: 0 });
    this.timer = null;
    this.now = 'initialize';
  }

  /** What it is changes; one that stands by waits by what it is now from when it hears the active one next. */
  be(self: VrrpSelf): void {
    this.self = self;
  }

  /** An advertisement of another came in. */
  hear({ priority, advert, address }: Advertisement, at: number): void {
    if (this.now === 'backup') {
      // §6.4.2
      if (priority === 0) this.timer = at + skewMs(this.self.priority, this.interval);
      else if (priority >= this.self.priority) {
        this.interval = advert;
        this.timer = at + downMs(this.self.priority, this.interval);
      }
      return;
    }
    if (this.now !== 'active') return;
    // §6.4.3
    if (priority === 0) {
      this.send(this.self);
      this.timer = at + this.self.advert * 10;
    } else if (priority > this.self.priority || (priority === this.self.priority && address > this.self.address)) {
      this.interval = advert;
      this.timer = at + downMs(this.self.priority, this.interval);
      this.now = 'backup';
    }
  }

  /** Time passed until `at`. */
  pass(at: number): void {
    if (this.timer === null || at < this.timer) return;
    this.timer = at + this.self.advert * 10;
    // The others know of it once what becomes of it is done.
    this.now = 'active';
    this.send(this.self);
  }
}
