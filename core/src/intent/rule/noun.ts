import type { Noun } from '../noun';
import { applyRule, ruleWords } from './apply';
import { namingOfRules } from './names';
import type { RuleOperation } from './operations';
import { ruleShapes } from './schema';

export const rule: Noun<RuleOperation> = {
  apply: applyRule,
  shapes: ruleShapes,
  words: ruleWords,
  naming: namingOfRules,
};
