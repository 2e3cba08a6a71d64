import {
  DIRECTORY_SECURITY,
  MOST_DIRECTORY_TEXT,
  MOST_USER_NAME,
  type DirectoryFields,
  type DirectoryTry,
} from '@iron-lattice/core/entry';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, route, type Route } from '../../platform/route';
import type { DirectoryChange, DirectoryService } from './directory.service';

const text = (most: number) => Joi.string().max(most).allow('').required();
const fields = Joi.object({
  host: text(MOST_DIRECTORY_TEXT.host),
  port: Joi.number().integer().required(),
  security: Joi.valid(...DIRECTORY_SECURITY).required(),
  authority: text(MOST_DIRECTORY_TEXT.authority).meta({ lines: true }),
  account: text(MOST_DIRECTORY_TEXT.account),
  base: text(MOST_DIRECTORY_TEXT.base),
  filter: text(MOST_DIRECTORY_TEXT.filter),
  groupAttribute: text(MOST_DIRECTORY_TEXT.attribute),
  groupBase: text(MOST_DIRECTORY_TEXT.base),
  groupFilter: text(MOST_DIRECTORY_TEXT.filter),
  off: Joi.boolean().required(),
} satisfies Shapes<DirectoryFields>).required();
const secret = Joi.string().max(500).allow(null, '').required();

/** The directory that is asked for users who are not kept here. */
export const directoryRoutes = (directory: DirectoryService): Route[] => [
  route({
    method: 'get',
    path: '/api/directory',
    summary:
      'The directory that is asked for users who are not kept here, without its account’s password, and how it fares',
    who: EVERYONE,
    handle: async () => ({ directory: await directory.view() }),
  }),
  route<DirectoryChange>({
    method: 'post',
    path: '/api/directory',
    summary: 'Have a directory asked, or another, from now on; the account’s password stays where it is null',
    who: CHANGERS,
    body: Joi.object({ version: Joi.number().integer().min(0).required(), fields, secret }),
    handle: ({ body, caller }) => directory.set(body, caller.id),
  }),
  route({
    method: 'delete',
    path: '/api/directory',
    summary: 'Have no directory asked any more, and forget it',
    who: CHANGERS,
    handle: ({ caller }) => directory.remove(caller.id),
  }),
  route<DirectoryTry>({
    method: 'post',
    path: '/api/directory/try',
    summary: 'Ask a directory for somebody, and tell all that was asked and answered; nothing is kept',
    who: CHANGERS,
    body: Joi.object({
      ...{ fields, secret },
      name: Joi.string().min(1).max(MOST_USER_NAME).required(),
      password: Joi.string().max(500).allow('').required(),
    } satisfies Shapes<DirectoryTry>),
    handle: ({ body }) => directory.try(body),
  }),
];
