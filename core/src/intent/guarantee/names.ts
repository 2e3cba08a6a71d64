import type { SearchHit } from '../../base';
import { writeEnds } from '../../rules';
import type { Renamed } from '../edit';
import { followEnds, namesEnd } from '../ends';
import type { Matches, Naming } from '../noun';
import type { Intent, Part } from '../part';
import { said } from '../purpose';
import type { KeptGuarantee } from './guarantee';

/** Guarantees name what they are about; they follow it to another name. What they reach at another site is called as it is there. */
export const namingOfGuarantees: Naming = {
  userOf: (part, kind, name) =>
    part.guarantees?.some((each) => namesEnd(each, kind, name)) ? `a guarantee of ${part.name}` : null,
  follow: (part, renamed) =>
    followed(part, renamed, ({ toSite }) => renamed.siteId === undefined || !toSite || toSite === renamed.siteId),
  followThere: (part, renamed) =>
    part.guarantees?.some(({ toSite }) => toSite === renamed.siteId)
      ? followed(part, renamed, ({ toSite }) => toSite === renamed.siteId, false)
      : part,
};

/** @param there whether what a guarantee reaches is meant. @param here whether what it is from is. */
function followed<P extends Part>(
  part: P,
  renamed: Renamed,
  there: (guarantee: KeptGuarantee) => boolean,
  here = true,
): P {
  const { guarantees } = part;
  if (!guarantees) return part;
  const whole = followEnds(guarantees, renamed);
  if (whole === guarantees) return part;
  const next = whole.map((each, i): KeptGuarantee => {
    const was = guarantees[i]!;
    if (each === was) return was;
    const { from } = here ? each : was;
    const { to, besides } = there(was) ? each : was;
    return { ...was, from, to, ...(besides ? { besides } : {}) };
  });
  return { ...part, guarantees: next };
}

/** Guarantees by what they are about, or by what they are for. */
export function* findGuarantees({ estate, sites }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const part of [estate, ...sites.values()])
    for (const { id, kind, from, to, purpose } of part.guarantees ?? []) {
      const title = `${writeEnds(from)} ${kind} ${writeEnds(to)}`;
      if (!matches(title, purpose ?? '')) continue;
      const of = part.kind === 'site' ? `Guarantee of ${part.name}` : 'Guarantee of every site';
      yield { kind: 'guarantee', id, siteId: part.kind === 'site' ? part.id : null, title, detail: said(of, purpose) };
    }
}
