import type { KeptOperation, OfEstate } from '../kept-list';
import type { Recipe } from './recipe';

export type RecipeOperation = KeptOperation<'recipe', Recipe, OfEstate>;
