import type { Noun } from '../noun';
import { applyRadio, radioWords } from './apply';
import type { RadioOperation } from './operations';

export const radio: Noun<RadioOperation> = { apply: applyRadio, words: radioWords };
