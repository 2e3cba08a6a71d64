import { overlayAt } from '../../intent';
import { part, type Told } from '../part';

/** How the gateway of a site is joined to those of others. */
export const overlay = part({
  name: 'overlay',
  kinds: ['gateway'],
  reads: { site: ['id'], estate: ['overlay', 'members', 'joins'], device: ['id'] },
  tells: ({ id: siteId, estate }, { id }): Told => {
    const isEnd = estate.members?.some((each) => each.siteId === siteId && each.deviceId === id);
    const told = isEnd ? overlayAt(estate, siteId) : null;
    return told ? { overlay: told } : {};
  },
});
