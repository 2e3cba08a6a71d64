import type { NamedKind } from './edit';
import type { SharedReach } from './reach';

/** Kinds of things that sites share. */
export const SHARED_KINDS = ['ssid', 'class', 'rule', 'set', 'guarantee', 'recipe', 'radius', 'route'] as const;
export type SharedKind = (typeof SHARED_KINDS)[number];

/** What a shared thing looks up at each site by its name. */
export interface Wanted {
  readonly kind: NamedKind | 'device';
  readonly name: string;
  /** Whether clients join it: then it is looked up whatever the case of its letters. */
  readonly joined?: 'segment' | 'segment or pool';
}

/** A thing that sites share, as far as all kinds are alike. */
export interface SharedThing {
  readonly kind: SharedKind;
  readonly id: string;
  readonly reach: SharedReach;
  /** Only at sites with this tag. */
  readonly tag?: string | null | undefined;
  /** What it names, each looked up among what a site has. */
  readonly wants: readonly Wanted[];
  /** The same at sites that say otherwise, by their id. */
  readonly at?: ReadonlyMap<string, readonly Wanted[]>;
}

export const EVERYWHERE: SharedReach = { kind: 'estate' };
