import { contains, parseIp, parsePrefix } from '../address';
import { toldWays } from '../assess';
import { interfacesOf, type GatewayDocument } from '../document';
import type { WalkFacts, WalkTarget } from './probe';
import { outward } from './walk-outward';
import { pass, stop, type Decider, type WalkStep } from './walk-step';

/**
 * From a gateway to an address: on a link of its, by a route, into a tunnel to another site, or outside. Where a tunnel takes it the walk here ends: what
 * becomes of it at the other end the other site knows.
 * @param known whether it is known who hands it on.
 */
export function* toward(
  gateway: GatewayDocument,
  id: string,
  facts: Pick<WalkFacts, 'uplinks'>,
  inside: string,
  to: WalkTarget,
  known = false,
): Generator<WalkStep> {
  const { name } = gateway.device;
  const by: Decider = { kind: 'device', id, name };
  const ip = parseIp(to.address)!;
  const link = interfacesOf(gateway).find(({ address }) => contains(parsePrefix(address)!, ip));
  if (link) {
    const own = link.address.split('/')[0] === to.address;
    const detail = own ? `${name} has it itself.` : `${to.address} is in ${link.name}, on a link of ${name}.`;
    yield pass('gateway', own ? `${name} answers` : `On to ${link.name}`, detail, by);
    return;
  }
  const way = toldWays(gateway)(ip);
  if (to.lost) {
    yield stop(way?.kind === 'overlay' ? 'tunnel' : 'gateway', to.lost.title, to.lost.why, by);
    return;
  }
  if (way?.kind === 'overlay') {
    const { prefix, peer } = way.line;
    yield peer === null
      ? stop('tunnel', 'Dropped', `${prefix} is where networks of joined sites are, and none has ${to.address}.`, by)
      : pass('tunnel', `Into the tunnel to ${peer}`, `${prefix} is of joined sites.`, by);
    return;
  }
  if (way?.kind === 'pact') {
    yield pass('tunnel', `Into the tunnel “${way.line.name}”`, `${way.line.prefix} is behind a gateway of others.`, by);
    return;
  }
  if (way && way.route.by === undefined) {
    const { name: said, prefix, to: next } = way.route;
    yield next === undefined
      ? stop('gateway', 'Dropped', `The route “${said}” leads ${prefix} nowhere.`, by)
      : pass(
          'gateway',
          `Handed on by ${next}`,
          `The route “${said}” leads ${prefix} there${known ? '' : '; what is behind it nobody here knows'}.`,
          by,
        );
    return;
  }
  yield* outward(gateway, id, facts, inside);
}
