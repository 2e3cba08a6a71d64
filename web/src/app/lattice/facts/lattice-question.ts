import { mendAll, type MendPlan, type SiteDraft } from '@iron-lattice/core/assess';
import { resolve, type Link } from '@iron-lattice/core/intent';
import { segmentStrand, usualDuties, type SegmentStrand, type UsualDuty } from '@iron-lattice/core/lattice';
import { siteInEffect } from '@iron-lattice/core/rollout';

/** What questions about a site are answered from. */
export interface SiteFacts extends Pick<SiteDraft, 'estate' | 'site' | 'roster' | 'links' | 'uplinks'> {
  /** Links as the draft would have them used; absent: as they are reported. */
  readonly used?: readonly Link[];
}

/** What can be asked of a site's lattice that takes longer than a frame at a large one. */
export type LatticeQuestion =
  /** Where a segment runs through the cabling. */
  | { readonly kind: 'strand'; readonly segmentId: string }
  /** The duties that follow from what is plugged in. */
  | { readonly kind: 'usual' }
  /** What all mends together would do. */
  | { readonly kind: 'mend' };
export interface LatticeAnswers {
  readonly strand: SegmentStrand;
  readonly usual: readonly UsualDuty[];
  readonly mend: MendPlan;
}
export type LatticeAnswer = LatticeAnswers[keyof LatticeAnswers];

/** A question as a worker is asked it: with facts, where they are not those of the last one. */
export interface LatticeAsked {
  readonly question: LatticeQuestion;
  readonly facts?: SiteFacts;
}

/** Answers a question from the facts alone; the same wherever it runs. */
export function answerTo(
  { estate, site, roster, links, uplinks, used = links }: SiteFacts,
  question: LatticeQuestion,
): LatticeAnswer {
  if (question.kind === 'mend') {
    const devices = new Map(roster.map((device) => [device.id, device]));
    const intent = { estate, sites: new Map([[site.id, site]]) };
    return mendAll(intent, { roster, links, uplinks }, site.id, (id) => devices.get(id));
  }
  const resolved = resolve(estate, site);
  const documents = siteInEffect(resolved, roster);
  return question.kind === 'usual'
    ? usualDuties(resolved, roster, documents, used)
    : segmentStrand(resolved, roster, documents, used, question.segmentId);
}
