import { MAIL_SECURITIES, MOST_ADDRESS, MOST_PEM, type MailChange, type MailFields } from '@iron-lattice/core/base';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import { addressOf } from '../roster/mail-offer';
import { CHANGERS, EVERYONE, route, type Route } from '../platform/route';
import type { MailService } from './mail.service';

const fields = Joi.object({
  host: Joi.string().max(253).allow('').required(),
  port: Joi.number().required(),
  security: Joi.valid(...MAIL_SECURITIES).required(),
  user: Joi.string().max(254).allow('').required(),
  from: Joi.string().max(400).allow('').required(),
  fromName: Joi.string().max(400).allow('').required(),
  authority: Joi.string().max(MOST_PEM).allow('').required().meta({ lines: true }),
} satisfies Shapes<MailFields>);

/** How mail is sent. */
export const mailRoutes = (mail: MailService): Route[] => [
  route({
    method: 'get',
    path: '/api/mail',
    summary: 'How mail is sent, without the password; null: it is not',
    who: EVERYONE,
    handle: async () => ({ mail: await mail.view() }),
  }),
  route<MailChange>({
    method: 'post',
    path: '/api/mail',
    summary: 'Say how mail is sent; a password that is not said anew stays while the server is the same',
    who: CHANGERS,
    body: Joi.object({
      version: Joi.number().integer().min(0).required(),
      fields: fields.required(),
      secret: Joi.string().max(500).allow(null, '').required(),
    } satisfies Shapes<MailChange>),
    handle: ({ body, caller }) => mail.set(body, caller.id),
  }),
  route({
    method: 'delete',
    path: '/api/mail',
    summary: 'Have no mail sent any more',
    who: CHANGERS,
    handle: ({ caller }) => mail.forget(caller.id),
  }),
  route<{ to: string }>({
    method: 'post',
    path: '/api/mail/try',
    summary: 'Send a mail to somebody, to see whether it goes; says what the server said',
    who: CHANGERS,
    body: Joi.object({ to: Joi.string().max(MOST_ADDRESS).required() }),
    handle: ({ body, caller }) =>
      mail.send(
        {
          to: addressOf(body.to),
          subject: 'A try from Iron Lattice',
          text: `${caller.name} wanted to see whether mail goes. It does.\n`,
        },
        caller.id,
      ),
  }),
];
