import type { Noun } from '../noun';
import { applyUplink, uplinkWords } from './apply';
import type { UplinkOperation } from './operations';
import { uplinkShapes } from './schema';
import { secretsOfUplink } from './secrets';

export const uplink: Noun<UplinkOperation> = {
  apply: applyUplink,
  shapes: uplinkShapes,
  words: uplinkWords,
  secrets: secretsOfUplink,
};
