import type { Noun } from '../noun';
import { applyUplink, uplinkWords } from './apply';
import type { UplinkOperation } from './operations';
import { secretsOfUplink } from './secrets';

export const uplink: Noun<UplinkOperation> = {
  apply: applyUplink,
  words: uplinkWords,
  secrets: secretsOfUplink,
};
