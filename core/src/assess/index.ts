export * from './finding';
export * from './consequences';
export * from './site-review';
export * from './draft.contract';
export type {
  DirectoryDoubts,
  EndingAuthority,
  EndingCertificate,
  LostKeys,
  ServerMethods,
  StrangeClass,
  UplinkAddress,
} from './check';
export * from './mend-all';
export * from './guarantee-results';
export * from './lock-out';
export * from './reach-from';
export * from './reach-view';
export * from './ask';
export * from './at-sites';
export * from './question';
export { CONTROLLER_PORT, viewPolicy, type PolicyView } from './policy-view';
export * from './revision-compare';
export * from './take-over';
export * from './air-facts';
export * from './guest-facts';
export * from './mesh-tree';
export * from './beacon-load';
export { lostKeysOf, type KeyLead } from './lost-keys';
export * from './rehearsed';
export * from './busy';
export * from './course-streams';
export { USUAL_WITHIN } from './served';
export * from './joined.contract';
export { lostTo } from './site-network';
export { toldWays, type ToldWay } from './told-route';
export * from './ask-across';
export * from './elsewhere';
export * from './reach-across';
export { ALL_UP, eitherWay, type TunnelsUp } from './led-across';
export type { Beyond, BeyondSite } from './beyond';
export {
  MOST_TRIES,
  triedAs,
  triesOf,
  type RouterTried,
  type RouterTries,
  type RouterTry,
  type TriesGiven,
} from './router-tries';
