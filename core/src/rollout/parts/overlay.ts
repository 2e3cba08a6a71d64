import { overlayAt, spokenFor } from '../../intent';
import { pairAt } from '../facts';
import { part, type Told } from '../part';

/** How the gateway of a site is joined to those of others. */
export const overlay = part({
  name: 'overlay',
  kinds: ['gateway'],
  reads: { site: ['id'], facts: { pair: pairAt }, estate: ['overlay', 'members', 'joins'], device: ['id'] },
  tells: ({ id: siteId, estate, pair }, { id }): Told => {
    const speaking = spokenFor(pair?.pair, id);
    const isEnd = estate.members?.some((each) => each.siteId === siteId && speaking.includes(each.deviceId));
    const told = isEnd ? overlayAt(estate, siteId) : null;
    return told ? { overlay: told } : {};
  },
});
