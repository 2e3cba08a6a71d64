import { resolve, type EstatePart, type RosterDevice, type SitePart } from '../intent';
import { judgingSite, type JudgingSite } from './led-across';

/** A site that another’s guarantees reach, as a draft has it. */
export interface BeyondSite {
  readonly site: SitePart;
  readonly roster: readonly RosterDevice[];
}
/** Sites that guarantees of a site reach, by id. */
export type Beyond = Readonly<Record<string, BeyondSite>>;

/** Parts never change, and of many sites that are looked at the same ones are beyond. */
const opened = new WeakMap<
  SitePart,
  { readonly estate: EstatePart; readonly roster: string; readonly made: JudgingSite }
>();

/** A site beyond, ready to judge what comes to it. */
export function openBeyond(estate: EstatePart, { site, roster }: BeyondSite): JudgingSite {
  const devices = JSON.stringify(roster);
  const known = opened.get(site);
  if (known?.estate === estate && known.roster === devices) return known.made;
  const made = judgingSite(resolve(estate, site), roster);
  opened.set(site, { estate, roster: devices, made });
  return made;
}
