import { Joi, type Schema } from '../../schema';
import { texts, type, type Shapes } from '../shape';
import { MOST_SPANS, type OverlaySaid } from './overlay';

const said = Joi.object({ spans: texts(MOST_SPANS).required() } satisfies Shapes<OverlaySaid>)
  .allow(null)
  .required();

export const overlayShapes: readonly Schema[] = [Joi.object({ type: type('overlay.set'), from: said, to: said })];
