import { bench } from './bench/bench.module';
import { entry } from './entry/entry.module';
import { firmware } from './firmware/firmware.module';
import { guests } from './guests/guests.module';
import { intake } from './intake/intake.module';
import { lattice } from './lattice/lattice.module';
import { mail } from './mail/mail.module';
import { paths } from './paths/paths.module';
import { rollout } from './rollout/rollout.module';
import { rules } from './rules/rules.module';
import { search } from './search/search.module';
import type { Stage } from './stage';
import { wireless } from './wireless/wireless.module';

/** Every stage of the work; a new one is a folder and a line here. They hear
 * devices in this order, and end in the opposite one. */
export const STAGES: readonly Stage[] = [
  intake,
  firmware,
  lattice,
  wireless,
  rules,
  entry,
  mail,
  guests,
  paths,
  bench,
  search,
  rollout,
];
