import type { EstatePart } from '../part';
import { EVERYWHERE, type SharedThing } from '../shared';

/** Recipes may be stamped anywhere. */
export const sharedRecipes = ({ recipes = [] }: EstatePart): readonly SharedThing[] =>
  recipes.map(({ id }) => ({ kind: 'recipe', id, reach: EVERYWHERE, wants: [] }));
