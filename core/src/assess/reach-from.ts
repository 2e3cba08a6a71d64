import { enforcedAt, policyOf } from '../rollout';
import { between, type PolicyBook, type Reach } from '../rules';
import { viewPolicy } from './policy-view';
import { cellOf, matrixEnds, reachMatrix, type MatrixEnd, type ReachInput } from './reach-view';

/** What one place reaches, and the rules that decide of it. */
export interface ReachFrom {
  readonly reach: readonly { readonly to: string; readonly kind: MatrixEnd['kind']; readonly reach: Reach }[];
  readonly rules: readonly { readonly id: string; readonly name: string }[];
}

/** Kinds of places that are told as reached: SSIDs and classes are clients of segments. */
const TOLD: readonly MatrixEnd['kind'][] = ['segment', 'gateway', 'internet'];

/**
 * What places of a draft’s reach matrix reach, by their keys; one that is none has no entry.
 * @param minute of the week.
 */
export function reachFrom(
  input: ReachInput,
  keys: readonly string[],
  minute: number,
  book?: PolicyBook,
): ReadonlyMap<string, ReachFrom> {
  const { site, roster } = input;
  const matrix = reachMatrix({ site, roster, live: null }, minute, book);
  const view = viewPolicy(site, policyOf(site, roster), enforcedAt(site, roster), site.id, book);
  const places = matrixEnds(site, view);
  const passage = view.passage(minute);
  const everywhere = { key: 'everywhere', addresses: null };
  return new Map(
    [...new Set(keys)].flatMap((key) => {
      const at = matrix.places.findIndex((place) => place.key === key);
      const from = places.find((place) => place.key === key);
      if (at < 0 || !from) return [];
      const reach = matrix.places.flatMap(({ kind, name }, i) =>
        TOLD.includes(kind) ? [{ to: name, kind, reach: matrix.draft[at]![i]! }] : [],
      );
      const attached = from.attached === undefined ? {} : { from: from.attached };
      const { rules } = cellOf(passage, view, places, (space) => between(space, from, everywhere), attached);
      const named = rules.flatMap(({ ruleId, name }) => (ruleId === null ? [] : [{ id: ruleId, name }]));
      return [[key, { reach, rules: [...new Map(named.map((each) => [each.id, each])).values()] }] as const];
    }),
  );
}
