import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyRecipe } from './apply';
import type { RecipeOperation } from './operations';
import { recipeShapes } from './schema';

export const recipe: Noun<RecipeOperation> = {
  apply: applyRecipe,
  shapes: recipeShapes,
  words: wordsOfList('recipe', 'recipe'),
};
