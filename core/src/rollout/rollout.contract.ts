import type { WaveForeseen, WavePlan } from './wave.contract';

export type RolloutState =
  | 'waiting'
  | 'running'
  /** A wave is through; the next one begins when the wait is over and what must hold does. */
  | 'resting'
  /** No site that is left of the wave has its hours now, or enough of them. */
  | 'holding'
  | 'paused'
  | 'done'
  /** Ended before its last wave: sites that were told as a whole stay, the others are behind. */
  | 'stopped'
  | 'stopping'
  | 'put-back'
  | 'putting-back';
/** What somebody asked of a rollout that is under way. */
export type RolloutWish = 'pause' | 'stop' | 'back';
export type StepState =
  | 'waiting'
  | 'telling'
  | 'kept'
  /** Not heard from: it gets the document when it calls. */
  | 'later'
  | 'failed'
  | 'put-back'
  | 'not-told';

/** What ending a rollout here would do, in devices and sites. */
export interface WhatStopDoes {
  /** They stay as they were told: sites told as a whole. */
  readonly stay: { readonly devices: number; readonly sites: number };
  /** They are made to run what they ran before. */
  readonly back: { readonly devices: number; readonly sites: number };
  /** They are told nothing. */
  readonly never: { readonly devices: number; readonly sites: number };
}

/** What rolling a draft out comes to, and what stands against it, over all sites that it touches. */
export interface RolloutCheck {
  /** Devices that would be told something else, and how many of them are silent now: they are told when they call. */
  readonly devices: number;
  readonly silent: number;
  /** Errors among the findings. */
  readonly errors: number;
  /** Guarantees that would be broken: a reason has to be given. */
  readonly broken: readonly { readonly siteName: string; readonly words: string; readonly packet: string }[];
  /** Who would not reach the controller any more: the names of their sites have to be typed. */
  readonly lockOuts: readonly {
    readonly siteName: string;
    readonly name: string;
    readonly packet: string;
    readonly why: string;
  }[];
  /** Sites that it edits while another draft is being rolled out there: it has to wait. */
  readonly held: readonly { readonly siteName: string; readonly draftName: string }[];
  /** Devices among them that were changed by hand: what was changed there is lost when they are told. */
  readonly drifted: readonly { readonly siteName: string; readonly name: string }[];
}

/** How a person has a draft rolled out. */
export interface RolloutRequest {
  readonly draftId: string;
  /** Where the draft stood as they looked at it; refused when it was edited since. */
  readonly head?: number;
  /** Whether they saw the errors among the findings and go on. */
  readonly despiteErrors?: boolean;
  /** Whether they saw that devices changed by hand are put right by it. */
  readonly putRight?: boolean;
  /** Why guarantees are broken knowingly; the journal keeps it. */
  readonly reason?: string;
  /** How many devices they saw that it would tell; refused when it is another number by now. */
  readonly devices?: number;
  /** Names of the sites where somebody is cut off knowingly. */
  readonly sites?: readonly string[];
  /** In which waves; absent: all at once. */
  readonly waves?: WavePlan;
}

export interface RolloutStepView {
  readonly deviceId: string;
  readonly siteId: string;
  readonly siteName: string;
  readonly wave: number;
  readonly name: string;
  readonly state: StepState;
  readonly reason: string | null;
  readonly added: number;
  readonly removed: number;
}

export type WaveState = 'waiting' | 'telling' | 'through' | 'put-back' | 'not-told';

/** A wave of a rollout, and how far it is. */
export interface WaveView extends WaveForeseen {
  readonly state: WaveState;
  /** Devices by what became of them. */
  readonly counts: Readonly<Partial<Record<StepState, number>>>;
  /** Clients of its sites: counted before it began, and now; null before. */
  readonly clients: { readonly before: number; readonly now: number } | null;
}

export interface RolloutView {
  readonly id: string;
  readonly draftId: string;
  readonly draftName: string;
  readonly state: RolloutState;
  /** Number of the revision it made; null unless it is done. */
  readonly revision: number | null;
  readonly reason: string | null;
  /** Whether it was taken up again after the controller had stopped in the middle. */
  readonly resumed: boolean;
  readonly startedBy: string;
  readonly startedAt: string;
  readonly endedAt: string | null;
  readonly plan: WavePlan;
  readonly waves: readonly WaveView[];
  /** Number of the wave that is told, or was told last, from 0. */
  readonly wave: number;
  /** Until when is waited before the next wave, or for the hours of a site. */
  readonly restUntil: string | null;
  /** What somebody asked of it that is not done yet. */
  readonly asked: RolloutWish | null;
  /** What stopping here and going back would do; null once it is over. */
  readonly would: { readonly stop: WhatStopDoes; readonly back: WhatStopDoes } | null;
  /** How many devices it tells, over all waves. */
  readonly devices: number;
  /** The first of them in the order in which they are told, and those that failed; empty in a list of rollouts. */
  readonly steps: readonly RolloutStepView[];
}

export interface RevisionView {
  /** How many sites it moved. */
  readonly sites: number;
  readonly number: number;
  readonly name: string;
  readonly by: string;
  readonly at: string;
}
