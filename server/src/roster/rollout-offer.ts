import { offer } from '../platform/offers';

/** Rolls a draft out as whoever asked for it, with the checks that people have. @throws AppError where something stands against it. */
export type RolloutStarter = (draftId: string, personId: string) => Promise<void>;

/** Rollouts, for whoever has a draft that nobody has to press for. */
export const ROLLOUTS = offer<RolloutStarter>('rollouts');
