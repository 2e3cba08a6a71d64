import type { SsidDocument } from '../../document';
import { holdersOf } from '../facts';
import { part } from '../part';
import { sitePolicy } from '../policy/site-policy';
import { fact } from '../reads';

const gatewayList = fact({ facts: { made: sitePolicy } }, ({ made }) => made.policy, { settles: true });
const switchList = fact({ facts: { made: sitePolicy } }, ({ made }) => made.switches, { settles: true });
const airedLists = fact({ facts: { made: sitePolicy } }, ({ made }) => made.ssids, { settles: true });

/** What the gateway that routes the segments lets pass. */
export const gatewayPolicy = part({
  name: 'policy',
  kinds: ['gateway'],
  reads: { facts: { holders: holdersOf, policy: gatewayList }, device: ['id'] },
  tells: ({ holders, policy }, { id }) => (holders.includes(id) ? { policy } : {}),
});

/** What a switch judges packets by. */
export const switchPolicy = part({
  name: 'list of switches',
  kinds: ['switch'],
  reads: { facts: { list: switchList }, device: [] },
  tells: ({ list }) => (list ? { list } : {}),
});

/** What an AP judges packets of its clients by: of those without a class, and of those of each that it knows. */
export const apPolicy = part({
  name: 'lists of APs',
  kinds: ['ap'],
  reads: { facts: { aired: airedLists }, device: [], before: ['ssids', 'classes'] },
  tells: ({ aired }, _device, { ssids = [], classes = [] }) => {
    if (!ssids.some(({ id }) => aired[id])) return {};
    const judged = ssids.map((ssid): SsidDocument => {
      const { lists, classLists } = aired[ssid.id] ?? {};
      const named = classes.flatMap(({ id, name }) => {
        const own = classLists?.[id];
        return own ? [{ id, name, ...own }] : [];
      });
      return { ...ssid, ...(lists ? { lists } : {}), ...(named.length > 0 ? { classLists: named } : {}) };
    });
    return { ssids: judged };
  },
});
