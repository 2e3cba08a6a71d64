import { isVlanId, parsePrefix } from '../../address';
import { flaw, type Flaw } from '../../base';
import { byName, editsOfList } from '../kept-list';
import type { EstatePart } from '../part';
import { LEASE_SECONDS } from '../segment/service-check';
import type { RecipeOperation } from './operations';
import type { Recipe } from './recipe';

/** Applies an edit of a segment recipe, which sites share; recipes stay ordered by name. */
export const applyRecipe = editsOfList<RecipeOperation, Recipe, 'estate'>({
  noun: 'recipe',
  where: 'estate',
  list: 'recipes',
  order: byName,
  check: (_intent, estate, recipe) => check(estate, recipe),
});

function check(estate: EstatePart, recipe: Recipe): Flaw[] {
  const flaws: Flaw[] = [];
  const name = recipe.name.trim();
  if (name === '') flaws.push(flaw('recipe.name-empty', 'Give the recipe a name; its segments are called so.', 'name'));
  if (estate.recipes?.some((other) => other.id !== recipe.id && other.name.toLowerCase() === name.toLowerCase()))
    flaws.push(flaw('recipe.name-taken', `There is already a recipe “${name}”.`, 'name'));
  if (!isVlanId(recipe.vlan)) flaws.push(flaw('recipe.vlan', 'A VLAN ID is a whole number from 1 to 4094.', 'vlan'));
  if (!Number.isInteger(recipe.length) || recipe.length < 16 || recipe.length > 30)
    flaws.push(flaw('recipe.length', 'Subnets of a recipe have 16 to 30 bits.', 'length'));
  const parent = recipe.parent === null ? null : parsePrefix(recipe.parent);
  if (recipe.parent !== null && parent?.version !== 4)
    flaws.push(flaw('recipe.parent', `“${recipe.parent}” is not an IPv4 prefix.`, 'parent'));
  else if (parent && parent.length > recipe.length)
    flaws.push(flaw('recipe.parent-small', `A /${recipe.length} does not fit into ${recipe.parent}.`, 'parent'));
  const { least, most } = LEASE_SECONDS;
  if (recipe.leaseSeconds !== null && !(recipe.leaseSeconds >= least && recipe.leaseSeconds <= most))
    flaws.push(flaw('recipe.lease', 'A lease lasts from 2 minutes to 30 days.', 'leaseSeconds'));
  return flaws;
}
