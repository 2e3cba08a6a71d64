import type { Flaw } from '../base';
import type { Intent, Part, SitePart } from './part';
import type { RosterDevice } from './roster';

/** What an edit of a noun made: the new intent and the edit that takes it back, which is of the same noun. */
export interface Applied<Op> {
  readonly ok: true;
  readonly intent: Intent;
  readonly inverse: Op;
  /** A name that became another: whatever names it follows. */
  readonly renamed?: Renamed;
}
/** Why an edit was refused; the intent stays as it was. */
export interface Refused {
  readonly ok: false;
  readonly flaws: readonly Flaw[];
}
export type Outcome<Op> = Applied<Op> | Refused;

/** Things that others know by name. */
export type NamedKind = 'segment' | 'ssid' | 'class' | 'set';
/** A thing that has another name now. */
export interface Renamed {
  readonly kind: NamedKind;
  readonly from: string;
  readonly to: string;
  /** Whose it is; absent: sites share it. */
  readonly siteId?: string;
}

/** Looks up a claimed device; the roster is a fact beside the intent. */
export type RosterLookup = (deviceId: string) => RosterDevice | undefined;

/** What an edit is judged by, beside the intent. */
export interface EditContext {
  readonly roster: RosterLookup;
  /** What names a thing in a part, in words; null where nothing does. */
  readonly userOf: (part: Part, kind: NamedKind, name: string) => string | null;
}

/** A refusal for one or more reasons. */
export const refuse = (...flaws: Flaw[]): Refused => ({ ok: false, flaws });

/** The intent with one part replaced. */
export const withPart = (intent: Intent, part: Part): Intent =>
  part.kind === 'site' ? withSite(intent, part) : { ...intent, estate: part };

/** The intent with one site's part replaced. */
export const withSite = (intent: Intent, site: SitePart): Intent => ({
  ...intent,
  sites: new Map(intent.sites).set(site.id, site),
});
