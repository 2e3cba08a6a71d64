import { EAP_METHODS, type Credentials } from '../../radius';
import { Joi, type Shapes } from '../../schema';
import { short } from './fields';

/** Who a client proved to be (IEEE 802.1X-2020), how, and to which server. */
export interface EnteredReport {
  readonly user: string;
  readonly method: Credentials['method'];
  readonly server: string;
}

/**
 * Why somebody who says who it is was not taken in. `rejected`: a server says no. `nobody`: no server answers. `unasked`: none is to be asked.
 * `untrusted`: the client does not believe the server. `method`: the server wants another one. `keyless`: it makes no keys, which the air
 * needs. Of a yes: it names a `class` or a `vlan` that is not told here, or a class whose `segment` the site lacks.
 */
export const ENTRY_REFUSALS = [
  ...(['rejected', 'nobody', 'unasked', 'untrusted', 'method', 'keyless', 'class', 'vlan', 'segment'] as const),
] as const;
export type EntryRefusal = (typeof ENTRY_REFUSALS)[number];

const entered = {
  user: Joi.string().max(253).allow('').required(),
  method: Joi.valid(...EAP_METHODS, 'eap-tls').required(),
  server: short.required(),
} satisfies Shapes<EnteredReport>;
export const enteredShape = Joi.object(entered);
