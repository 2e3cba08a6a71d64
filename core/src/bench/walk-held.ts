import type { PortalDocument } from '../document';
import type { Documents } from '../lattice';
import { isPlugged, type AnyProbe, type WalkFacts } from './probe';
import { entersAt } from './walk-port';
import { portalAtPort, portalOnSsid } from './walk-portal';

/** The portal that holds whoever is walked as; undefined: none does, or it does not get that far. */
export function portalOf(documents: Documents, probe: AnyProbe, facts: WalkFacts): PortalDocument | undefined {
  if (isPlugged(probe)) {
    const device = documents.get(probe.deviceId);
    const at = device && entersAt(device, probe, facts);
    return at ? portalAtPort(device, probe.port, at, facts) : undefined;
  }
  const ap = documents.get(probe.apId);
  const ssid = ap?.kind === 'ap' ? ap.ssids.find(({ id }) => id === probe.ssidId) : undefined;
  return ap && ssid ? portalOnSsid(ap, ssid, facts) : undefined;
}
