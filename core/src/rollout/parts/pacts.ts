import type { PactDocument } from '../../document';
import { hereOf, innerOfPact, spokenFor, uplinkSettings, USUAL_LASTS } from '../../intent';
import { holdersOf, pairAt } from '../facts';
import { part, type Told } from '../part';

/** Tunnels to gateways of others, of the gateway that routes a site’s segments. */
export const pacts = part({
  name: 'pacts',
  kinds: ['gateway'],
  reads: {
    site: ['pacts', 'segments', 'routers', 'uplinks'],
    facts: { holders: holdersOf, pair: pairAt },
    device: ['id', 'model', 'sheet', 'first'],
  },
  tells: ({ pacts: said = [], holders, pair, ...site }, device): Told => {
    const holds = spokenFor(pair?.pair, device.id).some((id) => holders.includes(id));
    const here = holds ? said.map((pact) => ({ pact, here: hereOf(site, pact) })) : [];
    const uplinks = here.length > 0 ? uplinkSettings(site, device) : [];
    // Nobody is told of a tunnel that nothing here may go into.
    const told = here
      .filter((each) => each.here.length > 0)
      .map(({ pact, here: own }): PactDocument => {
        const { name, at, own: named, other, key, ike, esp, lasts, behind } = pact;
        return {
          ...{ name, ...(at ? { at } : {}), own: named, other, key, ike, esp, lasts: lasts ?? USUAL_LASTS },
          ...{ here: own, there: behind, mtu: innerOfPact(pact, uplinks) },
        };
      })
      .sort((a, b) => (a.name < b.name ? -1 : 1));
    return told.length > 0 ? { pacts: told } : {};
  },
});
