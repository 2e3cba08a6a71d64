import { CERTIFICATE_DAYS, type OwnCertificateView } from '@iron-lattice/core/entry';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../../platform/route';
import { bitsOf } from './authority';
import type { CertificateService } from './certificate.service';
import type { IssuedService } from './issued.service';

/** Characters of a text, before it is looked at. */
const MOST_TEXT = 1000;
const days = Joi.number().integer().min(CERTIFICATE_DAYS.least).max(CERTIFICATE_DAYS.most).required();
const SERIAL = Joi.string()
  .pattern(/^[0-9a-f]{2,40}$/)
  .required();

/** What clients need to believe the controller, and nobody else; and certificates that the estate’s authority makes. */
export const certificateRoutes = (certificates: CertificateService, issued: IssuedService): Route[] => [
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
        bits: bitsOf(authority.cert),
      };
    },
  }),
  route({
    method: 'get',
    path: '/api/certificates',
    summary: 'Certificates that the estate’s authority made, without their keys; the newest first',
    who: EVERYONE,
    handle: () => issued.all(),
  }),
  route<{ label: string; days: number }>({
    method: 'post',
    path: '/api/users/:id/certificates',
    summary: 'Make a user a certificate, which acts at once; its key is told this once',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ label: Joi.string().max(MOST_TEXT).allow('').required(), days }),
    status: 201,
    handle: ({ params, body, caller }) => issued.forUser(params['id']!, body, caller.id),
  }),
  route<{ name: string; days: number }>({
    method: 'post',
    path: '/api/server-certificates',
    summary: 'Make the certificate of another server than this controller; its key is told this once',
    who: CHANGERS,
    body: Joi.object({ name: Joi.string().max(MOST_TEXT).required(), days }),
    status: 201,
    handle: ({ body, caller }) => issued.forServer(body.name, body.days, caller.id),
  }),
  route({
    method: 'post',
    path: '/api/certificates/:serial/revoke',
    summary: 'Take a certificate back, for good',
    who: CHANGERS,
    params: { serial: SERIAL },
    handle: ({ params, caller }) => issued.revoke(params['serial']!, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/revocations',
    summary:
      'Certificates that were taken back, as a list signed by the authority (RFC 5280 §5, DER), for servers that believe it',
    who: 'anyone',
    handle: async ({ context }) => {
      const list = await issued.revocations();
      context.type = 'application/pkix-crl';
      context.set('content-disposition', 'attachment; filename="revocations.crl"');
      context.body = Buffer.from(list);
    },
  }),
];
