import type { FieldsOf } from '../kept-list';
import { purpose, shapesOfList, text, texts, type Shapes } from '../shape';
import type { KeptSet } from './set';

const fields = {
  name: text(200),
  addresses: texts(20_000).allow(null),
  ports: texts(2000).allow(null),
  sets: texts(200).allow(null),
  purpose,
} satisfies Shapes<FieldsOf<KeptSet>>;

export const setShapes = shapesOfList('set', 'scope', fields);
