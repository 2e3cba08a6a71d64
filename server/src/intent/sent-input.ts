import type { ConsequencesInput } from '@iron-lattice/core/assess';
import type { DeviceDocument } from '@iron-lattice/core/document';

/** What consequences follow from, as it is handed to a worker thread: documents as the texts they are kept as, which only it reads. */
export interface SentInput extends Omit<ConsequencesInput, 'told'> {
  readonly told: Readonly<Record<string, string>>;
}

/** The same with its documents read. */
export const readInput = ({ told, ...facts }: SentInput): ConsequencesInput => ({
  ...facts,
  told: Object.fromEntries(Object.entries(told).map(([id, text]) => [id, JSON.parse(text) as DeviceDocument])),
});
