import type { Flaw } from '../base';
import type { Intent, RosterDevice, SitePart } from './nouns';
import type { Operation } from './operation';

/** What an edit made: the new intent and the edit that takes it back. */
export interface Applied {
  readonly ok: true;
  readonly intent: Intent;
  readonly inverse: Operation;
}
/** Why an edit was refused; the intent stays as it was. */
export interface Refused {
  readonly ok: false;
  readonly flaws: readonly Flaw[];
}

/** Looks up a claimed device; the roster is a fact beside the intent. */
export type RosterLookup = (deviceId: string) => RosterDevice | undefined;

/** A refusal for one or more reasons. */
export const refuse = (...flaws: Flaw[]): Refused => ({ ok: false, flaws });

/** The intent with one site's part replaced. */
export const withSite = (intent: Intent, site: SitePart): Intent => ({
  ...intent,
  sites: new Map(intent.sites).set(site.id, site),
});
