import type { RuleEnd } from '../rules';
import type { EstatePart, Intent, KeptGuarantee, SitePart } from './nouns';

type Kind = 'segment' | 'ssid' | 'class';
/** What rules and guarantees have in common. */
interface Named {
  readonly from: readonly RuleEnd[];
  readonly to: readonly RuleEnd[];
  readonly besides?: readonly RuleEnd[] | null;
}

/** A site whose rules and guarantees follow one of its segments to another name. */
export function carryNames(site: SitePart, kind: Kind, from: string, to: string): SitePart {
  const { rules, guarantees } = site;
  if (from === to || ![...(rules ?? []), ...(guarantees ?? [])].some((each) => names(each, kind, from))) return site;
  return {
    ...site,
    ...(rules ? { rules: rules.map((each) => carried(each, kind, from, to)) } : {}),
    ...(guarantees ? { guarantees: guarantees.map((each) => carried(each, kind, from, to)) } : {}),
  };
}

/** An intent in which all that names an SSID or a class, which sites share, follows it to another name. */
export function carrySharedName(intent: Intent, kind: 'ssid' | 'class', from: string, to: string): Intent {
  if (from === to) return intent;
  const sites = new Map([...intent.sites].map(([id, site]) => [id, carryNames(site, kind, from, to)]));
  return { ...intent, estate: carryInEstate(intent.estate, kind, from, to), sites };
}

function carryInEstate(estate: EstatePart, kind: Kind, from: string, to: string): EstatePart {
  const { rulesBefore, rulesAfter, guarantees } = estate;
  const all = [...(rulesBefore ?? []), ...(rulesAfter ?? []), ...(guarantees ?? [])];
  if (!all.some((each) => names(each, kind, from))) return estate;
  const follow = <T extends Named>(list: readonly T[]): T[] => list.map((each) => carried(each, kind, from, to));
  return {
    ...estate,
    ...(rulesBefore ? { rulesBefore: follow(rulesBefore) } : {}),
    ...(rulesAfter ? { rulesAfter: follow(rulesAfter) } : {}),
    ...(guarantees ? { guarantees: follow<KeptGuarantee>(guarantees) } : {}),
  };
}

const isMeant = (end: RuleEnd, kind: Kind, name: string): boolean => end.kind === kind && end.name === name;
const names = ({ from, to, besides }: Named, kind: Kind, name: string): boolean =>
  [...from, ...to, ...(besides ?? [])].some((end) => isMeant(end, kind, name));

function carried<T extends Named>(one: T, kind: Kind, from: string, to: string): T {
  if (!names(one, kind, from)) return one;
  const follow = (ends: readonly RuleEnd[]): RuleEnd[] =>
    ends.map((end) => (isMeant(end, kind, from) ? { kind, name: to } : end));
  const { besides } = one;
  return { ...one, from: follow(one.from), to: follow(one.to), ...(besides ? { besides: follow(besides) } : {}) };
}
