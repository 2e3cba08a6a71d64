import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyRecipe } from './apply';
import { findRecipes } from './names';
import type { RecipeOperation } from './operations';
import { sharedRecipes } from './shared';

export const recipe: Noun<RecipeOperation> = {
  apply: applyRecipe,
  words: wordsOfList('recipe', 'recipe'),
  shared: sharedRecipes,
  find: findRecipes,
};
