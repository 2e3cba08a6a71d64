import { bench } from './bench/stage';
import { entry } from './entry/stage';
import { estate } from './estate/stage';
import { firmware } from './firmware/stage';
import { guests } from './guests/stage';
import { intake } from './intake/stage';
import { lattice } from './lattice/stage';
import { paths } from './paths/stage';
import { rollout } from './rollout/stage';
import { rules } from './rules/stage';
import type { Stage } from './shell/stage';
import { wireless } from './wireless/stage';

/** Every stage, in the order the work is done; a new one is a folder and its name here. */
export const ALL_STAGES: readonly Stage[] = [
  estate,
  intake,
  firmware,
  lattice,
  wireless,
  rules,
  entry,
  guests,
  paths,
  bench,
  rollout,
].flat();
