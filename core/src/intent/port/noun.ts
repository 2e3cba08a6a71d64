import type { Noun } from '../noun';
import { applyPort, portWords } from './apply';
import type { PortOperation } from './operations';

export const port: Noun<PortOperation> = { apply: applyPort, words: portWords };
