import { fact } from '../reads';
import { part } from '../part';

const vlansOf = fact({ site: ['segments'] }, ({ segments }) => segments.map(({ vlan, name }) => ({ vlan, name })), {
  settles: true,
});

/** The VLANs a switch knows, by name. */
export const vlans = part({
  name: 'vlans',
  kinds: ['switch'],
  reads: { facts: { vlans: vlansOf }, device: [] },
  tells: ({ vlans: known }) => ({ vlans: known }),
});
