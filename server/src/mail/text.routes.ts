import { readPhone, TEXT_FORMS, type TextChange, type TextFields } from '@iron-lattice/core/guests';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import { AppError } from '../platform/app-error';
import { CHANGERS, EVERYONE, route, type Route } from '../platform/route';
import type { TextService } from './text.service';

const fields = Joi.object({
  url: Joi.string().max(2000).allow('').required(),
  form: Joi.valid(...TEXT_FORMS).required(),
  to: Joi.string().max(100).allow('').required(),
  text: Joi.string().max(100).allow('').required(),
  more: Joi.string().max(8000).allow('').required().meta({ lines: true }),
  header: Joi.string().max(100).allow('').required(),
} satisfies Shapes<TextFields>);

/** How text messages are sent. */
export const textRoutes = (texts: TextService): Route[] => [
  route({
    method: 'get',
    path: '/api/texts',
    summary: 'How text messages are sent, without the secret; null: they are not',
    who: EVERYONE,
    handle: async () => ({ texts: await texts.view() }),
  }),
  route<TextChange>({
    method: 'post',
    path: '/api/texts',
    summary: 'Say how text messages are sent; a secret that is not said anew stays while the gateway is the same',
    who: CHANGERS,
    body: Joi.object({
      version: Joi.number().integer().min(0).required(),
      fields: fields.required(),
      secret: Joi.string().max(500).allow(null, '').required(),
    } satisfies Shapes<TextChange>),
    handle: ({ body, caller }) => texts.set(body, caller.id),
  }),
  route({
    method: 'delete',
    path: '/api/texts',
    summary: 'Have no text messages sent any more',
    who: CHANGERS,
    handle: ({ caller }) => texts.forget(caller.id),
  }),
  route<{ to: string }>({
    method: 'post',
    path: '/api/texts/try',
    summary: 'Send a text message to somebody, to see whether it goes; says what the gateway said',
    who: CHANGERS,
    body: Joi.object({ to: Joi.string().max(60).required() }),
    handle: ({ body, caller }) =>
      texts.send(
        { to: phoneOf(body.to), text: `${caller.name} wanted to see whether text messages go. They do.` },
        caller.id,
      ),
  }),
];

/** @throws AppError `texts.flawed` where it is none. */
function phoneOf(text: string): string {
  const to = readPhone(text);
  if (to !== null) return to;
  const message = 'Write a phone number with its country, beginning with +.';
  throw new AppError('texts.flawed', message, [{ code: 'texts.number', message, field: 'to' }]);
}
