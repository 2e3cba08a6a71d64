import { InjectionToken, type Type } from '@angular/core';
import type { FindingPlace } from '@iron-lattice/core/assess';
import type { SearchHit } from '@iron-lattice/core/base';
import type { Waiting } from '../ui/station-line';
import type { DraftReviews } from './draft-reviews';
import type { EstateStore } from './estate-store';
import type { SiteStore } from './site-store';

interface Shown {
  /** Of its address, one segment. */
  readonly path: string;
  /** On its line, in the title of the window, and where people look for it. */
  readonly name: string;
  readonly page: () => Promise<Type<unknown>>;
  /** Kinds of found objects that it shows, each with how `show` names one. */
  readonly hits?: Partial<Readonly<Record<SearchHit['kind'], (hit: SearchHit) => string>>>;
  /** What can be begun there, by the query parameter `add`; such as “Add segment”. */
  readonly add?: string;
}

/** A stage of the work at one site: a station of the work line. */
export interface SiteStage extends Shown {
  readonly at: 'site';
  /** Kinds of places of findings that it shows, each with how `show` names one. */
  readonly findings?: Partial<Readonly<Record<FindingPlace['kind'], (place: FindingPlace) => string>>>;
  /** What waits there when no finding does. */
  readonly waiting?: (store: SiteStore, reviews: DraftReviews) => Waiting | undefined;
  /** Whether it shows what all mends together would do (`mend`), or every line that devices would be told. */
  readonly shows?: 'mends' | 'changes';
}

/** Something that is looked at over all sites: a station of the estate's line. */
export interface EstateStage extends Shown {
  readonly at: 'estate';
  /** What people look for it by, where that is not its name. */
  readonly title?: string;
  readonly waiting?: (store: EstateStore, reviews: DraftReviews) => Waiting | undefined;
  /** Whether it shows every line that devices would be told, or what sites share is edited there: what the draft means stands beside it. */
  readonly shows?: 'changes' | 'shared';
}

export type Stage = SiteStage | EstateStage;

/** Every stage, in the order the work is done. */
export const STAGES = new InjectionToken<readonly Stage[]>('stages');

export const siteStages = (stages: readonly Stage[]): SiteStage[] => stages.filter((stage) => stage.at === 'site');
export const estateStages = (stages: readonly Stage[]): EstateStage[] =>
  stages.filter((stage) => stage.at === 'estate');

/** The stage of a site that shows a place, with what it calls it. */
export function stageOf(
  stages: readonly Stage[],
  place: FindingPlace,
): { readonly path: string; readonly show: string } | null {
  for (const { path, findings } of siteStages(stages)) {
    const show = findings?.[place.kind];
    if (show) return { path, show: show(place) };
  }
  return null;
}

/** For `findings` and `hits`: what is named by its id alone. */
export const byId = ({ id }: { readonly id: string }): string => id;
