import { contains, formatPrefix, parseIp, parsePrefix } from '@iron-lattice/core/address';
import type { GatewayDocument } from '@iron-lattice/core/document';
import {
  policyRule,
  readServices,
  resolveRules,
  type PolicyRule,
  type Rule,
  type RuleEnd,
} from '@iron-lattice/core/rules';
import { Joi } from '@iron-lattice/core/schema';

/** A router of somebody else’s: no controller tells it anything, and it does what it does. */
export interface WorldRouter {
  /** By which the world knows it. */
  readonly name: string;
  readonly mac: string;
  /** Where it is plugged in: `SERIAL:port`. */
  readonly at: string;
  /** Its addresses, by VLAN, and what it gives out there. */
  readonly faces: readonly {
    readonly vlan: number;
    readonly address: string;
    readonly gives?: readonly [string, string];
  }[];
  /** The VLAN that it takes without a tag. */
  readonly untagged?: number;
  /** Whom it hands on what it has no network for; absent: nobody. */
  readonly onward?: string;
  /** Whether it has a line of its own to the internet. */
  readonly ownWayOut?: true;
  /** What it stops, a line each: `10.4.60.0/24 10.4.70.0/24 tcp 22`; `any` for all. */
  readonly stops?: readonly string[];
  readonly off?: true;
}

const line = Joi.string().pattern(/^\S+ \S+( \S+ ?\S*)?$/);
export const routerShape = Joi.object({
  name: Joi.string().required(),
  mac: Joi.string().required(),
  at: Joi.string().required(),
  faces: Joi.array()
    .items(
      Joi.object({
        vlan: Joi.number().required(),
        address: Joi.string().ip({ cidr: 'required' }).required(),
        gives: Joi.array().items(Joi.string().ip()).length(2),
      }),
    )
    .required(),
  untagged: Joi.number(),
  onward: Joi.string().ip(),
  ownWayOut: Joi.valid(true),
  stops: Joi.array().items(line),
  off: Joi.valid(true),
});

/** The port that it is plugged in with. */
export const ROUTER_PORT = 'lan';

/** Where it meets the router that it hands on to; null: on no link of its. */
export function meetsAt({ faces, onward }: WorldRouter): WorldRouter['faces'][number] | null {
  const ip = onward === undefined ? null : parseIp(onward);
  return faces.find(({ address }) => ip && contains(parsePrefix(address)!, ip)) ?? null;
}

/** What such a router does, in the words in which a gateway of ours would be told it. */
export function routerDocument(router: WorldRouter): GatewayDocument {
  const { name, untagged, stops = [] } = router;
  const vlans = router.faces.map(({ vlan }) => vlan);
  // Where it hands on itself, nobody sends through it.
  const faces = router.faces.filter((face) => face !== meetsAt(router));
  return {
    format: 'iron-lattice.document/1',
    kind: 'gateway',
    device: { name, serial: name, model: '' },
    site: { name: '', country: '', timeZone: 'UTC' },
    management: { vlan: untagged ?? vlans[0] ?? 1 },
    ports: [
      {
        name: ROUTER_PORT,
        untagged: untagged ?? null,
        tagged: vlans.filter((vlan) => vlan !== untagged).sort((a, b) => a - b),
      },
    ],
    interfaces: faces.map(({ vlan, address }) => ({ vlan, name: `VLAN ${vlan}`, address })),
    addressServices: faces.flatMap(({ vlan, address, gives }) => {
      if (!gives) return [];
      const [gateway] = address.split('/') as [string];
      const [first, last] = gives;
      return [
        { vlan, subnet: formatPrefix(parsePrefix(address)!), first, last, gateway, dns: [gateway], leaseSeconds: 3600 },
      ];
    }),
    uplinks: [],
    policy: { otherwise: 'allow', rules: stops.flatMap((text, i) => stopRule(name, text, i)) },
  };
}

/** @throws RangeError when a line cannot be read. */
function stopRule(name: string, text: string, i: number): PolicyRule[] {
  const [from, to, ...service] = text.split(' ') as [string, string, ...string[]];
  const end = (said: string): RuleEnd => (said === 'any' ? { kind: 'any' } : { kind: 'addresses', text: said });
  const { services, bad } = readServices(service.length === 0 ? 'any' : service.join(' '));
  const rule: Rule = { id: `${name} ${i}`, verdict: 'deny', from: [end(from)], to: [end(to)], services };
  const none = new Map<string, never>();
  const names = { segments: none, ssids: none, classes: none, sets: none, devices: none };
  const { rules, flaws } = resolveRules([rule], names);
  if (bad.length > 0 || flaws.length > 0) throw new RangeError(`“${text}” of ${name} cannot be read`);
  return rules.map((each) => policyRule(each, { name: `${name} stops ${text}` }));
}
