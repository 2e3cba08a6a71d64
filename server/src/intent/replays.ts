import { replayFurther, type Intent, type Numbered, type Replayed, type RosterDevice } from '@iron-lattice/core/intent';
import { LRUCache } from 'lru-cache';

/** From how many edits on it is remembered what they come to: fewer are made anew as quickly as they are looked up. */
const FROM = 20;
/** Drafts of which it is. */
const MOST = 16;

/** What edits of drafts come to: those of long drafts are not all made anew for each that follows. */
export class Replays {
  private readonly known = new LRUCache<string, Replayed>({ max: MOST });

  /**
   * Applies the edits of a draft to what is live.
   * @param keeps whether what comes of it may be remembered: not what a transaction sees that may yet be taken back.
   */
  of(
    draftId: string,
    base: Intent,
    operations: readonly Numbered[],
    roster: readonly RosterDevice[],
    keeps: boolean,
  ): Replayed {
    const long = operations.length >= FROM;
    const made = replayFurther((long && this.known.get(draftId)) || null, base, operations, roster);
    if (long && keeps) this.known.set(draftId, made);
    return made;
  }
}
