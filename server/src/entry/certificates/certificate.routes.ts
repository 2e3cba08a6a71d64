import type { OwnCertificateView } from '@iron-lattice/core/entry';
import { EVERYONE, route, type Route } from '../../platform/route';
import type { CertificateService } from './certificate.service';

/** What clients need to believe the controller, and nobody else. */
export const certificateRoutes = (certificates: CertificateService): Route[] => [
  route({
    method: 'get',
    path: '/api/entry-certificate',
    summary: 'The certificate that the controller shows to who signs in, and the authority it is believed by',
    who: EVERYONE,
    handle: async (): Promise<OwnCertificateView> => {
      const { name, until, authority } = await certificates.own();
      return {
        ...{ name, until: until.toISOString(), authority: authority.cert },
        authorityUntil: authority.until.toISOString(),
      };
    },
  }),
];
