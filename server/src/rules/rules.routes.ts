import { LAST_MOMENT } from '@iron-lattice/core/rules';
import { Joi } from '@iron-lattice/core/schema';
import type { CellAsked, QuestionAsked } from './rules.heavy';
import { CHANGERS, EVERYONE, ID, route, THEN, type Route } from '../platform/route';
import { RULE_FORMATS, type RuleFormat, type Meant, type RulesService, type Then } from './rules.service';

/** Octets of a list of rules. */
const MOST = 4_000_000;
const atSite = { id: ID, siteId: ID };
/** A moment as one number; see `momentOn`. */
const minute = Joi.number().integer().min(0).max(LAST_MOMENT);
const asked = { then: THEN, on: Joi.string().valid('draft', 'live').required(), minute: minute.allow(null).required() };
/** The other site that is to be reached. */
const OTHER = Joi.string().guid();
const words = Joi.string().max(2000).allow('').required();

export const rulesRoutes = (rules: RulesService): Route[] => [
  route({
    method: 'get',
    path: '/api/drafts/:id/sites/:siteId/reach',
    summary: 'Who reaches whom at a site, or from it at another, on the draft and live, at a moment',
    who: EVERYONE,
    params: atSite,
    query: { minute, then: THEN, toSite: OTHER },
    handle: ({ params, query: { minute: at, ...meant } }) =>
      rules.reach(params['id']!, params['siteId']!, at === undefined ? null : Number(at), meant),
  }),
  route<CellAsked & Meant>({
    method: 'post',
    path: '/api/drafts/:id/sites/:siteId/reach-cell',
    summary: 'Exactly what gets from one place to another, and the rules that decide it; changes nothing',
    who: EVERYONE,
    params: atSite,
    body: Joi.object({
      from: Joi.string().max(100).required(),
      to: Joi.string().max(100).required(),
      toSite: OTHER,
      ...asked,
    }),
    handle: ({ params, body }) => rules.cell(params['id']!, params['siteId']!, body),
  }),
  route<QuestionAsked & Then>({
    method: 'post',
    path: '/api/drafts/:id/sites/:siteId/ask',
    summary: 'Whether one place reaches another, there and back, with what decides; changes nothing',
    who: EVERYONE,
    params: atSite,
    body: Joi.object({ question: Joi.object({ from: words, to: words, services: words }).required(), ...asked }),
    handle: ({ params, body }) => rules.ask(params['id']!, params['siteId']!, body),
  }),
  route({
    method: 'get',
    path: '/api/rule-hits',
    shared: true,
    summary: 'How often each rule that sites share decided, over all of them',
    who: EVERYONE,
    handle: () => rules.sharedHits(),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/rule-hits',
    summary: 'How often each rule of a site decided',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => rules.hits(params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/sites/:siteId/rules/:format',
    summary: 'A site’s policy as an nftables ruleset (`nft`) or RFC 8519 access lists (`acl`), or its rules as CSV',
    who: EVERYONE,
    params: {
      ...atSite,
      format: Joi.string()
        .valid(...RULE_FORMATS)
        .required(),
    },
    handle: async ({ params, context }) => {
      const file = await rules.write(params['id']!, params['siteId']!, params['format'] as RuleFormat);
      context.attachment(file.name);
      context.type = file.type;
      return file.text;
    },
  }),
  route({
    method: 'post',
    path: '/api/drafts/:id/sites/:siteId/rule-list',
    summary: 'Look at a list of rules (CSV or XLSX), row by row: the edit it would make; nothing is changed',
    who: CHANGERS,
    params: atSite,
    query: { book: Joi.string().valid('site', 'before', 'after').required() },
    upload: MOST,
    handle: ({ params, query, upload }) => {
      const [siteId, book] = [params['siteId']!, query['book'] as 'site' | 'before' | 'after'];
      return rules.preview(params['id']!, book === 'site' ? { siteId } : { book }, siteId, upload);
    },
  }),
];
