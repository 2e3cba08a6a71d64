import type { Noun } from '../noun';
import { applyRule, ruleWords } from './apply';
import { findRules, namingOfRules } from './names';
import type { RuleOperation } from './operations';
import { sharedRules } from './shared';

export const rule: Noun<RuleOperation> = {
  apply: applyRule,
  words: ruleWords,
  naming: namingOfRules,
  shared: sharedRules,
  find: findRules,
};
