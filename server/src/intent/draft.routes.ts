import {
  MOST_DRAFT_NAME,
  MOST_DRAFT_TEXT,
  type DraftChange,
  type EditRequest,
  type MendsAsked,
} from '@iron-lattice/core/assess';
import { editSchema, operationSchema, SHARED_KINDS, type SharedKind } from '@iron-lattice/core/intent';
import { proposeSegment } from '@iron-lattice/core/lattice';
import { Joi } from '@iron-lattice/core/schema';
import type { Sequelize } from 'sequelize';
import { AppError } from '../platform/app-error';
import { note } from '../platform/journal';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { DraftReview } from './draft-review';
import type { DraftService } from './draft.service';
import type { EstateDrafts } from './estate-draft';
import type { SecretService } from './secret.service';
import type { UndoService } from './undo.service';

/** Sites that are asked after at once, and edits that are thought to be made already. */
const [MOST_SITES, MOST_GIVEN] = [50, 2000];
/** Ids parted by commas. */
const SITE_IDS = /^[0-9a-f-]{36}(,[0-9a-f-]{36})*$/;

const said = {
  name: Joi.string().trim().min(1).max(MOST_DRAFT_NAME).required(),
  description: Joi.string().max(MOST_DRAFT_TEXT).allow('').required(),
};

export const draftRoutes = (
  drafts: DraftService,
  reviews: DraftReview,
  estates: EstateDrafts,
  undo: UndoService,
  secrets: SecretService,
  database: Sequelize,
): Route[] => [
  route({
    method: 'get',
    path: '/api/drafts/current',
    shared: true,
    summary: 'The draft people work in',
    who: EVERYONE,
    handle: async () => drafts.view(await drafts.recent()),
  }),
  route({
    method: 'get',
    path: '/api/drafts',
    shared: true,
    summary: 'Drafts that are not over, newest first',
    who: EVERYONE,
    handle: () => drafts.list(),
  }),
  route({
    method: 'post',
    path: '/api/drafts',
    summary: 'Start another draft',
    who: CHANGERS,
    status: 201,
    handle: ({ caller }) => drafts.start(caller.id),
  }),
  route<DraftChange>({
    method: 'patch',
    path: '/api/drafts/:id',
    summary: 'Say what a draft is called and for',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ from: Joi.object(said).required(), to: Joi.object(said).required() }),
    handle: ({ params, body }) => drafts.describe(params['id']!, body),
  }),
  route({
    method: 'get',
    path: '/api/drafts/current/findings',
    shared: true,
    summary: 'What sites come to in the draft people work in: findings, guarantees broken, devices told',
    who: EVERYONE,
    query: {
      sites: Joi.string()
        .max(MOST_SITES * 37)
        .pattern(SITE_IDS)
        .required(),
    },
    handle: ({ query }) => reviews.findings(query['sites']!.split(',')),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id',
    shared: true,
    summary: 'A draft',
    who: EVERYONE,
    params: { id: ID },
    handle: async ({ params }) => drafts.view(await drafts.recent(params['id'])),
  }),
  route({
    method: 'delete',
    path: '/api/drafts/:id',
    summary: 'Discard a draft',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => drafts.discard(params['id']!, caller.id),
  }),
  route<EditRequest>({
    method: 'post',
    path: '/api/drafts/:id/operations',
    summary: 'Append edits to a draft, all or none; with `site`, the answer is that site as the draft has it now',
    who: CHANGERS,
    params: { id: ID },
    body: editSchema,
    query: { site: Joi.string().uuid() },
    handle: async ({ params, query, body, caller }) => {
      const opened = await drafts.edit(params['id']!, body, caller.id);
      return query['site'] ? drafts.site(opened, query['site']) : drafts.view(opened);
    },
  }),
  route({
    method: 'post',
    path: '/api/drafts/:id/undo',
    summary: 'Take the last edit back; with none left in the draft, the last one that is live',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => undo.undo(params['id']!, caller.id),
  }),
  route({
    method: 'post',
    path: '/api/drafts/:id/redo',
    summary: 'Bring back what was taken back last',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params }) => undo.redo(params['id']!),
  }),
  route({
    method: 'delete',
    path: '/api/drafts/:id/misfits/:number',
    summary: 'Drop an edit that no longer fits',
    who: CHANGERS,
    params: { id: ID, number: Joi.number().integer().min(1).required() },
    handle: ({ params }) => drafts.dropMisfit(params['id']!, Number(params['number'])),
  }),
  route({
    method: 'post',
    path: '/api/drafts/:id/misfits/:number/again',
    summary: 'Make an edit that no longer fits again, on what is there now',
    who: CHANGERS,
    params: { id: ID, number: Joi.number().integer().min(1).required() },
    handle: ({ params, caller }) => drafts.remakeMisfit(params['id']!, Number(params['number']), caller.id),
  }),
  route({
    method: 'get',
    path: '/api/drafts/current/sites/:siteId',
    shared: true,
    summary: 'A site as the draft people work in has it, with its consequences',
    who: EVERYONE,
    params: { siteId: ID },
    handle: async ({ params }) => drafts.site(await drafts.current(), params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/sites/:siteId',
    shared: true,
    summary: 'A site as a draft has it, with its consequences',
    who: EVERYONE,
    params: { id: ID, siteId: ID },
    handle: async ({ params }) => drafts.site(await drafts.open(params['id']!), params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/shared',
    shared: true,
    summary:
      'What sites share as a draft has it, with how many sites each of it reaches, and how many lack what it names',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => estates.get(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/shared/:kind/:thing/sites',
    shared: true,
    summary: 'What something that sites share is at each site where it applies',
    who: EVERYONE,
    params: {
      id: ID,
      kind: Joi.string()
        .valid(...SHARED_KINDS)
        .required(),
      thing: Joi.string().max(100).required(),
    },
    handle: ({ params }) => estates.atSites(params['id']!, params['kind'] as SharedKind, params['thing']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/touched',
    shared: true,
    summary: 'The sites at which a draft says something else than what is live',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => reviews.touched(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/reviews',
    shared: true,
    summary: 'What a draft means at some sites: findings, guarantees broken, and who would be told what',
    who: EVERYONE,
    params: { id: ID },
    query: {
      sites: Joi.string()
        .max(MOST_SITES * 37)
        .pattern(SITE_IDS)
        .required(),
    },
    handle: ({ params, query }) => reviews.touchedAt(params['id']!, query['sites']!.split(',')),
  }),
  route<MendsAsked>({
    method: 'post',
    path: '/api/drafts/:id/mends',
    summary: 'What all mends at some sites would do together; nothing is changed',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({
      siteIds: Joi.array().items(Joi.string().uuid()).min(1).max(MOST_SITES).required(),
      given: Joi.array().items(operationSchema).max(MOST_GIVEN).required(),
    }),
    handle: ({ params, body }) => reviews.mends(params['id']!, body),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/sites/:siteId/segment-proposal',
    summary: 'Free subnet, gateway and range for a VLAN ID',
    who: EVERYONE,
    params: { id: ID, siteId: ID },
    query: {
      vlan: Joi.number().integer().min(1).max(4094).required(),
      subnet: Joi.string().max(64),
      gateway: Joi.string().max(64),
    },
    handle: async ({ params, query }) => {
      const { intent } = await drafts.open(params['id']!);
      const typed = { subnet: query['subnet'], gateway: query['gateway'] };
      const proposal = proposeSegment(intent, params['siteId']!, Number(query['vlan']), typed);
      if (proposal) return proposal;
      throw new AppError(
        'draft.refused',
        typed.subnet ? `“${typed.subnet}” is not a subnet.` : 'No private /24 is free.',
      );
    },
  }),
  route({
    method: 'post',
    path: '/api/secrets/:id/reveal',
    summary: 'Show a secret; noted in the journal',
    who: CHANGERS,
    params: { id: ID },
    handle: async ({ params, caller }) => {
      const value = await secrets.reveal(params['id']!);
      await note(database, caller.id, 'secret.reveal', { id: params['id'] });
      return { value };
    },
  }),
];
