import { consequencesOf, type ConsequencesInput, type Consequences } from '@iron-lattice/core/assess';

/** Runs in a worker thread: one core function on plain values. */
export default function handle(input: ConsequencesInput): Consequences {
  return consequencesOf(input);
}
