import {
  BRANCH_SAMPLE,
  MOST_BRANCHES,
  type BranchesAsked,
  type BranchesCommon,
  type BranchesWanted,
} from '@iron-lattice/core/intake';
import { MOST_SPOKE_HUBS } from '@iron-lattice/core/intent';
import { Joi } from '@iron-lattice/core/schema';
import { writeTable } from '../../platform/list-table';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../../platform/route';
import type { BranchesService } from './branches.service';

/** Octets of a file; cells and columns of a row; characters of a cell. */
const [MOST_FILE, MOST_CELLS, MOST_CELL] = [2_000_000, 40, 1500];
const MOST_RECIPES = 200;
const MOST_SHARES = 100;

const common = Joi.object({
  recipeIds: Joi.array().items(ID).max(MOST_RECIPES).required(),
  hubs: Joi.array().items(ID).max(MOST_SPOKE_HUBS).required(),
  shares: Joi.array().items(Joi.string().max(200)).max(MOST_SHARES).required(),
  leaves: Joi.string().valid('here', 'hub').required(),
  like: Joi.string().uuid().allow(null).required(),
  pool: Joi.object({ prefix: Joi.string().max(64).allow('').required(), length: Joi.number().required() })
    .allow(null)
    .required(),
} satisfies Record<keyof BranchesCommon, unknown>).required();

const asked = {
  table: Joi.array()
    .items(Joi.array().items(Joi.string().max(MOST_CELL).allow('')).max(MOST_CELLS))
    // One more row than there may be, and the headings, so that it is said in words.
    .max(MOST_BRANCHES + 2)
    .required(),
  common,
};

/** Branches in one go. */
export const branchesRoutes = (branches: BranchesService): Route[] => [
  route({
    method: 'get',
    path: '/api/branch-lists/sample',
    summary: 'A sample of a branch list (CSV)',
    who: EVERYONE,
    handle: ({ context }) => {
      context.attachment('branch-sample.csv');
      context.type = 'text/csv';
      return writeTable(BRANCH_SAMPLE);
    },
  }),
  route({
    method: 'post',
    path: '/api/branch-lists',
    summary: 'Read a list of branches (CSV, XLSX or typed) as rows of cells',
    who: CHANGERS,
    upload: MOST_FILE,
    handle: ({ upload }) => branches.read(upload),
  }),
  route<BranchesAsked>({
    method: 'post',
    path: '/api/drafts/:draftId/branches/look',
    summary: 'Look at branches: what each would be, and all that follows; nothing is changed',
    who: CHANGERS,
    params: { draftId: ID },
    body: Joi.object(asked),
    handle: ({ params, body }) => branches.look(params['draftId']!, body),
  }),
  route<BranchesWanted>({
    method: 'post',
    path: '/api/drafts/:draftId/branches',
    summary: 'Make branches as they were looked at: sites and expected boxes at once, the rest in the draft',
    who: CHANGERS,
    status: 201,
    params: { draftId: ID },
    body: Joi.object({
      ...asked,
      basis: Joi.string().max(64).required(),
      leaveOutBad: Joi.boolean().required(),
    }),
    handle: ({ params, body, caller }) => branches.make(params['draftId']!, body, caller.id),
  }),
];
