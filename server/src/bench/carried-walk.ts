import { ALL_UP, acrossTo, eitherWay } from '@iron-lattice/core/assess';
import { carriedBy, type AnyProbe, type LandingFact } from '@iron-lattice/core/bench';
import type { EstatePart } from '@iron-lattice/core/intent';
import type { Documents } from '@iron-lattice/core/lattice';
import type { Sequelize } from 'sequelize';
import { tunnelsTold, tunnelsUp } from '../roster/tunnels-told';

/** What a walk knows of a site: what its devices are told, how they are joined, and what they report. */
type SiteKnown = Pick<LandingFact, 'name' | 'documents' | 'links' | 'facts'>;

/** Who is walked as, and where. */
interface Walked {
  readonly siteId: string;
  readonly documents: Documents;
  readonly estate: EstatePart;
  readonly probe: AnyProbe;
  /** Whether tunnels between sites are as they are; otherwise all are up. */
  readonly live: boolean;
}

/** Says where a walk goes on whose frames are carried to another site. */
export class CarriedWalks {
  constructor(private readonly database: Sequelize) {}

  /** @param known tells of another site. @returns null where nothing is carried to another one. */
  async landing(
    { siteId, documents, estate, probe, live }: Walked,
    known: (siteId: string) => Promise<SiteKnown>,
  ): Promise<(LandingFact & { readonly to: string }) | null> {
    const carried = carriedBy(documents, probe);
    if (!carried) return null;
    const { to, packet } = carried;
    const up = live ? eitherWay(tunnelsUp(estate, await tunnelsTold(this.database))) : ALL_UP;
    const across = acrossTo(estate, siteId, packet, to, up);
    if (!across) return null;
    const there = await known(across.siteId);
    const gateway = [...there.documents].find(
      ([, document]) =>
        document.kind === 'gateway' && document.interfaces.some(({ address }) => address.split('/')[0] === to),
    );
    return { ...there, to, siteId: across.siteId, way: across.steps, gatewayId: gateway?.[0] ?? null };
  }
}
