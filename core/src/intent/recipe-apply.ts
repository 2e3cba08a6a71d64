import { isVlanId, parsePrefix } from '../address';
import { flaw, type Flaw } from '../base';
import { refuse, type Applied, type Refused } from './edit-result';
import { changed, pick } from './field-change';
import type { EstatePart, Intent, Recipe } from './nouns';
import type { Operation } from './operation';
import { LEASE_SECONDS } from './service-check';

type RecipeOperation = Extract<Operation, { type: 'recipe.add' | 'recipe.remove' | 'recipe.set' }>;

/** Applies an edit of a segment recipe, which sites share; recipes stay ordered by name. */
export function applyRecipe(intent: Intent, operation: RecipeOperation): Applied | Refused {
  const recipes = intent.estate.recipes ?? [];
  if (operation.type === 'recipe.add') {
    const { recipe } = operation;
    if (recipes.some((each) => each.id === recipe.id))
      return refuse(flaw('recipe.exists', 'This recipe is already there.'));
    const flaws = check(intent.estate, recipe);
    if (flaws.length > 0) return refuse(...flaws);
    return done(intent, [...recipes, recipe], { type: 'recipe.remove', recipeId: recipe.id });
  }
  const recipe = recipes.find((each) => each.id === operation.recipeId);
  if (!recipe) return refuse(flaw('recipe.unknown', 'This recipe is no longer in the estate.'));
  const others = recipes.filter((each) => each.id !== recipe.id);
  if (operation.type === 'recipe.remove') return done(intent, others, { type: 'recipe.add', recipe });
  const clash = changed(recipe, operation);
  if (clash)
    return refuse(flaw('recipe.changed', `Somebody changed the ${clash} of “${recipe.name}” meanwhile.`, clash));
  const next: Recipe = { ...recipe, ...operation.to };
  const flaws = check(intent.estate, next);
  if (flaws.length > 0) return refuse(...flaws);
  const inverse: Operation = { ...operation, from: pick(next, operation.to), to: pick(recipe, operation.to) };
  return done(intent, [...others, next], inverse);
}

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

function done(intent: Intent, recipes: readonly Recipe[], inverse: Operation): Applied {
  const { recipes: _old, ...rest } = intent.estate;
  const sorted = [...recipes].sort((a, b) => (a.name < b.name ? -1 : 1));
  return {
    ok: true,
    intent: { ...intent, estate: recipes.length === 0 ? rest : { ...rest, recipes: sorted } },
    inverse,
  };
}
