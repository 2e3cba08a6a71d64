import { offer } from '../platform/offers';

/** Brings devices to the newest release at once, for whoever asks; null for a policy. */
export interface UpdateStarter {
  readonly startNow: (deviceIds: readonly string[], personId: string | null) => Promise<void>;
}

export const UPDATES = offer<UpdateStarter>('updates of firmware');
