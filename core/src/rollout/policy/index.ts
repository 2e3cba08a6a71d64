export { attachedKey, classKey, ssidKey, type Attached } from './attached';
export { areApart, enforcedBy, listsOfAir, type Enforced, type Way } from './enforced';
export { areAttached, besideOf, homeOf, sharedEnds, type RulePlaces } from './rule-place';
export { policyOf, ruleName, type PolicyRow, type RuleBook, type SitePolicy } from './site-policy';
