import type { Noun } from '../noun';
import { applyPort, portWords } from './apply';
import type { PortOperation } from './operations';
import { portShapes } from './schema';

export const port: Noun<PortOperation> = { apply: applyPort, shapes: portShapes, words: portWords };
