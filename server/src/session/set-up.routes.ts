import type { SetUpRequest } from '@iron-lattice/core/intake';
import { Joi } from '@iron-lattice/core/schema';
import { route, type Route } from '../platform/route';
import { COOKIE } from './session.routes';
import type { SessionService } from './session.service';
import type { SetUpService } from './set-up.service';

const text = Joi.string().max(200).allow('').required();
const number = Joi.number().required();

/** The first start of an empty controller. */
export const setUpRoutes = (setUp: SetUpService, sessions: SessionService): Route[] => [
  route({
    method: 'get',
    path: '/api/set-up',
    summary: 'Whether the controller waits to be set up',
    who: 'anyone',
    handle: () => setUp.state(),
  }),
  route<SetUpRequest>({
    method: 'post',
    path: '/api/set-up',
    summary: 'Set an empty controller up, once',
    who: 'anyone',
    status: 201,
    body: Joi.object({
      estate: Joi.string().max(60).allow('').required(),
      country: text,
      timeZone: text,
      window: Joi.object({ day: number, from: number, minutes: number }).required(),
      name: Joi.string().max(60).allow('').required(),
      email: text,
      password: Joi.string().max(400).allow('').required(),
    }),
    handle: async ({ body, context }) => {
      const person = await setUp.found(body);
      const { token } = await sessions.signIn(body.email, body.password, context.ip);
      context.cookies.set(COOKIE, token, { httpOnly: true, sameSite: 'lax', secure: context.secure, overwrite: true });
      return person;
    },
  }),
];
