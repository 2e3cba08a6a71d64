export type RolloutState = 'waiting' | 'running' | 'done' | 'put-back' | 'putting-back' | 'cancelled';
export type StepState =
  | 'waiting'
  | 'telling'
  | 'kept'
  /** Not heard from: it gets the document when it calls. */
  | 'later'
  | 'failed'
  | 'put-back'
  | 'not-told';

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
}

/** How a person has a draft rolled out. */
export interface RolloutRequest {
  readonly draftId: string;
  /** Whether they saw the errors among the findings and go on. */
  readonly despiteErrors?: boolean;
  /** Why guarantees are broken knowingly; the journal keeps it. */
  readonly reason?: string;
  /** How many devices they saw that it would tell; refused when it is another number by now. */
  readonly devices?: number;
  /** Names of the sites where somebody is cut off knowingly. */
  readonly sites?: readonly string[];
}

export interface RolloutStepView {
  readonly deviceId: string;
  readonly siteId: string;
  readonly name: string;
  readonly state: StepState;
  readonly reason: string | null;
  readonly added: number;
  readonly removed: number;
}

export interface RolloutView {
  readonly id: string;
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
  readonly steps: readonly RolloutStepView[];
}

export interface RevisionView {
  readonly number: number;
  readonly name: string;
  readonly by: string;
  readonly at: string;
}
