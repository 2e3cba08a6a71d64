import type { SearchHit } from '../../base';
import type { Matches } from '../noun';
import type { Intent } from '../part';
import { said } from '../purpose';

/** Recipes by name or VLAN ID, or by what their segments are for. */
export function* findRecipes({ estate }: Intent, matches: Matches): Iterable<SearchHit> {
  for (const { id, name, vlan, purpose } of estate.recipes ?? [])
    if (matches(name, String(vlan), purpose))
      yield { kind: 'recipe', id, siteId: null, title: name, detail: said(`Segment recipe, VLAN ${vlan}`, purpose) };
}
