import { offeredBehind, type FarGateway } from '../paths/far-gateways';
import type { Got, Wanted } from './asked';

/** What somebody gets who asks something of whoever is behind a gateway of others. */
export function gotBehind(far: FarGateway, tunnel: string, target: string, { protocol, port }: Wanted): Got {
  const offers = offeredBehind(far, target);
  if (!offers) return { ok: false, why: `Nobody has ${target} behind ${far.name}.` };
  const ok = protocol === 'icmp' || offers.has(`${protocol} ${port}`);
  const why = ok
    ? `${target} answers, through “${tunnel}”.`
    : `${target} is there and offers nothing on ${protocol} ${port}.`;
  return { ok, why };
}
