import type { Noun } from '../noun';
import { applyRadio, radioWords } from './apply';
import type { RadioOperation } from './operations';
import { radioShapes } from './schema';

export const radio: Noun<RadioOperation> = { apply: applyRadio, shapes: radioShapes, words: radioWords };
