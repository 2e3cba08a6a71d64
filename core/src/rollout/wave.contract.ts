/** What is tried first, alone: nothing, one device, one device of each kind at a site, or a whole site. */
export type Canary = 'none' | 'device' | 'kinds' | 'site';
/** How the rest is parted: all at once, each site alone, by the sites' first tag, or by shares of the sites. */
export type WavesBy = 'together' | 'site' | 'tag' | 'share';

/** What must hold once a wave is through, before the next one begins. */
export interface WaveChecks {
  /** Every device that was told runs it and is heard. */
  readonly inStep: boolean;
  /** Clients of its sites, in percent of those counted before the wave; null: not asked. */
  readonly clients: number | null;
  /** No guarantee is broken that was not accepted. */
  readonly guarantees: boolean;
  /** The suites that its sites keep on the Bench pass. */
  readonly suites: boolean;
}

/** How a draft is rolled out in waves. */
export interface WavePlan {
  readonly canary: Canary;
  /** Site of the canary; absent: the one that is proposed. */
  readonly canarySiteId?: string;
  readonly by: WavesBy;
  /** Shares of the sites in percent, growing, for waves by share; the last wave is the rest. */
  readonly shares?: readonly number[];
  /** How long is waited after a wave, in seconds. */
  readonly waitSeconds: number;
  readonly checks: WaveChecks;
  /** Hours in which devices are told, by each site's own clock, such as `Mon-Fri 02:00-04:00`; absent: at any time. */
  readonly within?: string;
  readonly onFailure: 'pause' | 'go-back';
  /** Whether a wave is through only when its silent devices called and were told. */
  readonly forSilent: boolean;
}

/** All at once, and back with all of it when something fails. */
export const AT_ONCE: WavePlan = {
  canary: 'none',
  by: 'together',
  waitSeconds: 0,
  checks: { inStep: false, clients: null, guarantees: false, suites: false },
  onFailure: 'go-back',
  forSilent: false,
};

/** Waves of one rollout. */
export const MOST_WAVES = 100;
/** Longest wait between two waves, in seconds. */
export const MOST_WAIT_SECONDS = 7 * 86_400;

/** A wave as it is shown before it begins. */
export interface WaveForeseen {
  readonly name: string;
  readonly devices: number;
  /** How many of them are silent now. */
  readonly silent: number;
  /** How many sites it tells something, and the first of their names. */
  readonly sites: number;
  readonly siteNames: readonly string[];
}
