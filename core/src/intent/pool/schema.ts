import type { FieldsOf } from '../kept-list';
import { purpose, shapesOfList, text, type Shapes } from '../shape';
import type { VlanPool } from './pool';

const fields = { name: text(200), vlans: text(400), purpose } satisfies Shapes<FieldsOf<VlanPool>>;

export const poolShapes = shapesOfList('pool', 'site', fields);
