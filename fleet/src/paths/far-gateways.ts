import { contains, parseIp, parsePrefix } from '@iron-lattice/core/address';
import { CIPHER_NAMES, GROUP_NAMES, HASH_NAMES } from '@iron-lattice/core/ike';
import { Joi } from '@iron-lattice/core/schema';
import type { IkeSide } from './ike-end';

/** A gateway of somebody else’s on the internet: no controller tells it anything, and it does what it was told by others. */
export interface FarGateway extends IkeSide {
  /** By which the world knows it. */
  readonly name: string;
  /** Its address. */
  readonly at: string;
  /** Address that it calls; absent: it waits to be called. */
  readonly calls?: string;
  /** It has power and says nothing. */
  readonly silent?: boolean;
  /** Who is behind it, and what each offers, such as `tcp 443`. */
  readonly hosts?: Readonly<Record<string, readonly string[]>>;
}
/** What of one may be otherwise from one moment to the next. */
export type FarChange = Partial<Omit<FarGateway, 'name' | 'at' | 'hosts'>>;

const offer = Joi.object({
  ciphers: Joi.array()
    .items(Joi.valid(...CIPHER_NAMES))
    .required(),
  hashes: Joi.array()
    .items(Joi.valid(...HASH_NAMES))
    .required(),
  groups: Joi.array()
    .items(Joi.valid(...GROUP_NAMES))
    .required(),
});
const prefixes = Joi.array().items(Joi.string().ip({ cidr: 'required' }));
const changing = {
  own: Joi.string(),
  other: Joi.string(),
  key: Joi.string(),
  ike: offer,
  esp: offer,
  here: prefixes,
  there: prefixes,
  calls: Joi.string().ip(),
  silent: Joi.boolean(),
};
export const farChangeShape = Joi.object(changing);
export const farGatewayShape = Joi.object({ name: Joi.string(), at: Joi.string().ip(), ...changing })
  .options({
    presence: 'required',
  })
  .fork(['calls', 'silent'], (each) => each.optional())
  .append({
    hosts: Joi.object().pattern(Joi.string().ip(), Joi.array().items(Joi.string())).optional(),
  });

/** The gateways of others that a world has. */
export class FarGateways {
  private readonly all: Map<string, FarGateway>;

  constructor(file: { readonly farGateways?: readonly FarGateway[] }) {
    this.all = new Map((file.farGateways ?? []).map((each) => [each.name, each]));
  }

  /** The one at an address; undefined: none is there. */
  at = (address: string): FarGateway | undefined => [...this.all.values()].find((each) => each.at === address);

  /** Those that call by themselves. */
  callers = (): FarGateway[] => [...this.all.values()].filter(({ calls, silent }) => calls !== undefined && !silent);

  /** @throws RangeError when there is none of that name. */
  named(name: string): FarGateway {
    const found = this.all.get(name);
    if (!found) throw new RangeError(`no gateway of others ${name}`);
    return found;
  }

  /** One of them is otherwise from now on. @throws RangeError when there is none of that name. */
  set(name: string, change: FarChange): void {
    this.all.set(name, { ...this.named(name), ...change });
  }
}

/** What somebody behind one offers; null: nobody is there. */
export function offeredBehind({ hosts = {}, here }: FarGateway, target: string): ReadonlySet<string> | null {
  const ip = parseIp(target);
  const isBehind = here.some((text) => ip && contains(parsePrefix(text)!, ip));
  return isBehind && hosts[target] ? new Set(hosts[target]) : null;
}
