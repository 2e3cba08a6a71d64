import { MOST_BUSY, mishapsShape, type DrilledMishap } from '@iron-lattice/core/line';
import { MOST_KEYS_AT_ONCE } from '@iron-lattice/core/assess';
import { MOST_REHEARSAL_NAME } from '@iron-lattice/core/paths';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { FailureService } from './failure.service';
import type { DrillService } from './drill.service';
import { UPLINK_FORMATS, type UplinkFormat, type UplinksFile } from './uplinks-file';
import type { RehearsalService } from './rehearsal.service';
import type { JoinedService } from './joined.service';
import type { TunnelKeys } from './tunnel-keys';
import type { RouteListService } from './route-list.service';
import type { RouterTriesService } from './router-tries.service';
import { PACT_FILES, type PactFile, type PactFileKind } from './pact-file';
import type { PathService } from './path.service';

/** Octets of a list of routes. */
const MOST_LIST = 1_000_000;

/** What answers. */
interface PathServices {
  readonly paths: PathService;
  readonly drills: DrillService;
  readonly failures: FailureService;
  readonly rehearsals: RehearsalService;
  readonly files: UplinksFile;
  readonly lists: RouteListService;
  readonly joined: JoinedService;
  readonly keys: TunnelKeys;
  readonly tries: RouterTriesService;
  readonly pacts: PactFile;
}

/** How sites leave. */
export const pathsRoutes = ({
  paths,
  drills,
  failures,
  rehearsals,
  files,
  lists,
  joined,
  keys,
  tries,
  pacts,
}: PathServices): Route[] => [
  route({
    method: 'get',
    path: '/api/sites/:siteId/router-tries',
    summary: 'What came of trying what is assumed of a site’s routers beside the gateway, by router',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => tries.last(params['siteId']!),
  }),
  route({
    method: 'post',
    path: '/api/sites/:siteId/routers/:routerId/tries',
    summary: 'Have devices try all that is assumed of a router beside the gateway, as far as they can',
    who: CHANGERS,
    params: { siteId: ID, routerId: ID },
    handle: ({ params }) => tries.try(params['siteId']!, params['routerId']!),
  }),
  route({
    method: 'get',
    path: '/api/joined',
    shared: true,
    summary: 'Sites that can be joined to each other, and how the tunnels fare that there are',
    who: EVERYONE,
    handle: () => joined.all(),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/joined/:siteId',
    summary: 'What can be shared of a site with others, and where its gateways are found, as a draft has it',
    who: EVERYONE,
    params: { id: ID, siteId: ID },
    handle: ({ params }) => joined.at(params['id']!, params['siteId']!),
  }),
  route<{ count: number }>({
    method: 'post',
    path: '/api/tunnel-keys',
    summary: 'Make pairs of keys for gateways that are to be joined; the private ones are shown to nobody',
    who: CHANGERS,
    status: 201,
    body: Joi.object({ count: Joi.number().integer().min(1).max(MOST_KEYS_AT_ONCE).required() }),
    handle: ({ body, caller }) => keys.make(body.count, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/sites/:siteId/gateways/:deviceId/routes',
    summary: 'The routes that a draft has of a gateway, as CSV',
    who: EVERYONE,
    params: { id: ID, siteId: ID, deviceId: ID },
    handle: async ({ params, context }) => {
      const { id, siteId, deviceId } = params;
      const file = await lists.write(id!, siteId!, deviceId!);
      context.attachment(file.name);
      context.type = 'text/csv';
      return file.text;
    },
  }),
  route({
    method: 'post',
    path: '/api/drafts/:id/sites/:siteId/gateways/:deviceId/route-list',
    summary: 'Look at a list of routes (CSV or XLSX), row by row: the edits it would make; nothing is changed',
    who: CHANGERS,
    params: { id: ID, siteId: ID, deviceId: ID },
    upload: MOST_LIST,
    handle: ({ params, upload }) => lists.preview(params['id']!, params['siteId']!, params['deviceId']!, upload),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/sites/:siteId/gateways/:deviceId/uplinks/:format',
    summary:
      'How a gateway leaves, as a draft has it: a shell script of iproute2 (`iproute2`), an nftables ruleset (`nft`), shares (`tc`), its tunnels to other sites (`wg`) or to gateways of others (`swanctl`), or its routes as RFC 8349 JSON (`ietf`)',
    who: EVERYONE,
    params: {
      ...{ id: ID, siteId: ID, deviceId: ID },
      format: Joi.string()
        .valid(...UPLINK_FORMATS)
        .required(),
    },
    handle: async ({ params, context }) => {
      const { id, siteId, deviceId, format } = params;
      const file = await files.write(id!, siteId!, deviceId!, format as UplinkFormat);
      context.attachment(file.name);
      context.type = format === 'ietf' ? 'application/json' : 'text/plain';
      return file.text;
    },
  }),
  route<{ kind: PactFileKind; withKey: boolean }>({
    method: 'post',
    path: '/api/drafts/:id/sites/:siteId/pacts/:pactId/other-side',
    summary:
      'What the people of another gateway have to put in: a sheet, or a file for swanctl; with the key, it is noted in the journal',
    who: CHANGERS,
    params: { id: ID, siteId: ID, pactId: ID },
    body: Joi.object({
      kind: Joi.valid(...PACT_FILES).required(),
      withKey: Joi.boolean().required(),
    }),
    handle: async ({ params, body, caller }) =>
      pacts.write({ draftId: params['id']!, siteId: params['siteId']!, pactId: params['pactId']! }, body, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/rehearsals',
    summary: 'Rehearsals that a site keeps, with what they came to after each rollout',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => rehearsals.of(params['siteId']!),
  }),
  route<{ name: string; mishaps: readonly DrilledMishap[]; most: number }>({
    method: 'post',
    path: '/api/devices/:id/rehearsals',
    summary: 'Keep a rehearsal of a gateway, in the place of another of its name',
    who: CHANGERS,
    status: 201,
    params: { id: ID },
    body: Joi.object({
      name: Joi.string().trim().min(1).max(MOST_REHEARSAL_NAME).required(),
      mishaps: mishapsShape.required(),
      most: Joi.number().min(0).max(86_400).required(),
    }),
    handle: ({ params, body, caller }) => rehearsals.keep(params['id']!, body, caller.id),
  }),
  route({
    method: 'delete',
    path: '/api/sites/:siteId/rehearsals/:rehearsalId',
    summary: 'Keep a rehearsal no longer',
    who: CHANGERS,
    params: { siteId: ID, rehearsalId: ID },
    handle: ({ params, caller }) => rehearsals.drop(params['siteId']!, params['rehearsalId']!, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/failures',
    shared: true,
    summary: 'What the worst failure of uplinks comes to at every gateway, as it is live',
    who: EVERYONE,
    query: { most: Joi.string().valid('1', '2').default('1') },
    handle: ({ query }) => failures.worst(query['most'] === '2' ? 2 : 1),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/drills',
    summary: 'Rehearsals that gateways of a site really played, with what was computed beforehand and what they told',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => drills.of(params['siteId']!),
  }),
  route<{ mishaps: readonly DrilledMishap[] }>({
    method: 'post',
    path: '/api/devices/:id/drill-forecasts',
    summary: 'What would become of a gateway, as it runs now, that plays mishaps on its own uplinks',
    who: EVERYONE,
    params: { id: ID },
    body: Joi.object({ mishaps: mishapsShape.required() }),
    handle: ({ params, body }) => drills.forecast(params['id']!, body.mishaps),
  }),
  route<{ mishaps: readonly DrilledMishap[] }>({
    method: 'post',
    path: '/api/devices/:id/drills',
    summary: 'Have a gateway play mishaps on its own uplinks, which end by themselves',
    who: CHANGERS,
    status: 201,
    params: { id: ID },
    body: Joi.object({ mishaps: mishapsShape.required() }),
    handle: ({ params, body, caller }) => drills.play(params['id']!, body.mishaps, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/paths',
    summary: 'How the gateways of a site leave now, and what became of their uplinks lately',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => paths.of(params['siteId']!),
  }),
  route({
    method: 'post',
    path: '/api/devices/:id/uplinks-back',
    summary: 'Have a gateway use again what is good of its uplinks',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => paths.bringBack(params['id']!, caller.id),
  }),
  route<{ port: string }>({
    method: 'post',
    path: '/api/devices/:id/uplink-capacity',
    summary: 'Have a gateway measure what one of its uplinks can do, in megabits a second',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ port: Joi.string().max(40).required() }),
    handle: ({ params, body, caller }) => paths.measure(params['id']!, body.port, caller.id),
  }),
  route<{ port: string; vlans: number[] }>({
    method: 'post',
    path: '/api/devices/:id/uplink-shares',
    summary:
      'Have a gateway measure what VLANs get of one of its uplinks while all of them are busy, in megabits a second',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({
      port: Joi.string().max(40).required(),
      vlans: Joi.array().items(Joi.number().integer().min(1).max(4094)).min(1).max(MOST_BUSY).unique().required(),
    }),
    handle: ({ params, body, caller }) => paths.measureBusy(params['id']!, body, caller.id),
  }),
];
