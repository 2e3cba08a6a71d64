import type { Flaw, SearchHit } from '../base';
import type { EditContext, NamedKind, Outcome, Renamed } from './edit';
import type { EstatePart, Intent, Part } from './part';
import type { SharedThing } from './shared';

/** An edit as far as every noun's is alike: its type begins with the noun's name. */
export interface AnyOperation {
  readonly type: string;
}

/** How the things of a noun name others. */
export interface Naming {
  /** The first of a part that names a thing, in words; null where none does. */
  readonly userOf: (part: Part, kind: NamedKind, name: string) => string | null;
  /** The part, in which whatever named a thing names it as it is called now. */
  readonly follow: <P extends Part>(part: P, renamed: Renamed) => P;
  /** The same of a part of elsewhere, which may name something of that site. */
  readonly followThere?: <P extends Part>(part: P, renamed: Renamed & { readonly siteId: string }) => P;
}

/** A secret that an edit refers to. */
export interface SecretUse {
  /** Its reference. */
  readonly id: string;
  /** What is wrong with a value for it. */
  readonly check: (value: string) => readonly Flaw[];
}

/** Whether one of some texts is what somebody looks for. */
export type Matches = (...texts: string[]) => boolean;

/** All that the rest of the product asks of one noun of intent; see the registry. */
export interface Noun<Op extends AnyOperation> {
  /** Applies one edit if its precondition holds. Pure. */
  readonly apply: (intent: Intent, operation: Op, context: EditContext) => Outcome<Op>;
  /** An edit in words, such as “the pool “Guests” added”. */
  readonly words: (operation: Op) => string;
  /** Fields that say something of single sites. */
  readonly bySite?: readonly string[];
  readonly secrets?: (operation: Op) => readonly SecretUse[];
  readonly naming?: Naming;
  /** Those of its things that sites share. */
  readonly shared?: (estate: EstatePart) => readonly SharedThing[];
  /** Finds things by what people remember of them. */
  readonly find?: (intent: Intent, matches: Matches) => Iterable<SearchHit>;
}
