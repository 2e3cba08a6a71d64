import { fixedAddressIn } from '../../intent';
import { part } from '../part';

/** The VLAN a device lives in, and its own address there where it is fixed. */
export const management = part({
  name: 'management',
  kinds: ['gateway', 'switch', 'ap'],
  reads: { site: ['management'], device: ['address'] },
  tells: ({ management: segment }, { address: fixed }) => {
    // One that no longer fits is said as it was given: a finding stops it from being rolled out unseen.
    const address = fixed && (fixedAddressIn(fixed, segment) ?? fixed);
    return { management: { vlan: segment.vlan, ...(address ? { address } : {}) } };
  },
});
