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
