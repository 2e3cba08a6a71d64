import { MOST_OF_SLIP, MOST_SLIPS, type Slip } from '@iron-lattice/core/base';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import type { Heavy } from '../../platform/heavy';
import { EVERYONE, RECEPTION, route, type Route } from '../../platform/route';

const line = Joi.string().max(MOST_OF_SLIP.line).allow('').required();
const lines = Joi.array().items(line).max(MOST_OF_SLIP.lines).required();
const slip = Joi.object({
  ...{ heading: line, code: line, before: lines, after: lines },
  qr: Joi.array()
    .items(Joi.object({ text: Joi.string().max(MOST_OF_SLIP.text).required(), words: line }))
    .max(MOST_OF_SLIP.qr)
    .required(),
} satisfies Shapes<Slip>);

/** Slips to be printed and cut. Nothing is looked up for them: whoever asks says what they say. */
export const slipRoutes = (heavy: Heavy): Route[] =>
  ([EVERYONE, RECEPTION] as const).map((who) =>
    route<{ slips: Slip[] }>({
      method: 'post',
      path: who === RECEPTION ? '/api/reception/slips' : '/api/slips',
      summary: 'Slips on pages to be printed and cut, as PDF',
      who,
      body: Joi.object({ slips: Joi.array().items(slip).min(1).max(MOST_SLIPS).required() }),
      handle: async ({ body, context }) => {
        const bytes = await heavy.run('slip-sheet', body.slips);
        context.type = 'application/pdf';
        context.attachment('slips.pdf');
        context.set('cache-control', 'no-store');
        context.body = Buffer.from(bytes);
        return undefined;
      },
    }),
  );
