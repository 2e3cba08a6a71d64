import type { Band } from '@iron-lattice/core/hardware';
import { speedTryShape, type SpeedTry } from '@iron-lattice/core/line';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import type { PlanRecurrence } from '@iron-lattice/core/wireless';
import type { CommandService } from '../line/command.service';
import { CHANGERS, EVERYONE, ID, MAC, route, whenLeft, type Route } from '../platform/route';
import type { AirClientService } from './air-client.service';
import type { AirRangeService } from './air-range.service';
import type { AirService } from './air.service';
import type { RadioChangeService } from './radio-change.service';
import type { PlanAsked, PlanService } from './plan.service';
import type { SpeedService } from './speed.service';
import type { EstateRadioService } from './estate-radio.service';
import type { RecurrenceService } from './recurrence.service';
import type { ScanService } from './scan.service';

interface Asked {
  readonly deviceIds: readonly string[] | null;
  readonly bands: readonly Band[];
}
const asked = Joi.object({
  deviceIds: Joi.array().items(Joi.string().uuid()).min(1).max(500).allow(null).required(),
  bands: Joi.array()
    .items(Joi.valid('2.4', '5', '6'))
    .min(1)
    .max(3)
    .unique()
    .required(),
});

/** The air of sites: what is heard, and scans. */
export const airRoutes = (
  commands: CommandService,
  airs: AirService,
  scans: ScanService,
  plans: PlanService,
  speeds: SpeedService,
  clients: AirClientService,
  ranges: AirRangeService,
  recurrences: RecurrenceService,
  estate: EstateRadioService,
  changes: RadioChangeService,
): Route[] => [
  route({
    method: 'get',
    path: '/api/drafts/:id/radios',
    shared: true,
    summary: 'Every radio of the estate as a draft has it, with what it does',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => estate.list(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/plan-recurrence',
    summary: 'Whether a plan of channels is worked out again each week, and how it went the last time',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => recurrences.get(params['siteId']!),
  }),
  route<PlanRecurrence>({
    method: 'patch',
    path: '/api/sites/:siteId/plan-recurrence',
    summary: 'Have a plan of channels worked out again in each update window, and taken where it is worth it',
    who: CHANGERS,
    params: { siteId: ID },
    body: Joi.object({
      on: Joi.boolean().required(),
      bands: asked.extract('bands'),
      leastGain: Joi.number().min(0.01).max(1).required(),
      mostMoved: Joi.number().integer().min(1).max(500).required(),
    } satisfies Shapes<PlanRecurrence>),
    handle: ({ params, body, caller }) => recurrences.set(params['siteId']!, body, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/air-clients',
    summary: 'Clients on the air of a site, where each was, and who tries in vain',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => clients.of(params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/air-range',
    shared: true,
    summary: 'How many clients of the last days each rate would leave out as the slowest, by band',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => ranges.of(params['siteId']!),
  }),
  route<{ mac: string }>({
    method: 'post',
    path: '/api/devices/:id/disconnects',
    summary: 'Have an AP send a client away, or a port ask it anew who it is; it may come back by itself',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ mac: MAC.required() }),
    handle: async ({ params, body, caller }) => {
      const { ok, text } = await commands.ask(params['id']!, 'disconnect', body.mac, { personId: caller.id });
      return { ok, text };
    },
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/speed-tests',
    summary: 'Tests of speed at a site, the latest first, each with what was predicted',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => speeds.list(params['siteId']!),
  }),
  route<SpeedTry>({
    method: 'post',
    path: '/api/devices/:id/speed-tests',
    summary: 'Have an AP try the speed of a radio with a probe near it',
    who: CHANGERS,
    status: 201,
    params: { id: ID },
    body: speedTryShape,
    handle: ({ params, body, caller }) => speeds.test(params['id']!, body, caller.id),
  }),
  route<PlanAsked>({
    method: 'post',
    path: '/api/drafts/:id/sites/:siteId/channel-plan',
    summary: 'A plan of channels, width and powers from what APs heard; nothing is changed',
    who: EVERYONE,
    params: { id: ID, siteId: ID },
    body: asked,
    handle: ({ params, body, context }) => plans.plan(params['id']!, params['siteId']!, body, whenLeft(context)),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/sites/:siteId/devices/:deviceId/hostapd/:band',
    summary: 'A radio and what it sends as a configuration for hostapd, without passphrases',
    who: EVERYONE,
    params: { id: ID, siteId: ID, deviceId: ID, band: Joi.valid('2.4', '5', '6').required() },
    handle: async ({ params, context }) => {
      const { id, siteId, deviceId, band } = params as Record<'id' | 'siteId' | 'deviceId' | 'band', string>;
      const { name, text } = await plans.hostapd(id, siteId, deviceId, band as Band);
      context.attachment(name);
      context.type = 'text/plain';
      return text;
    },
  }),
  route({
    method: 'get',
    path: '/api/radio-changes',
    shared: true,
    summary: 'What each radio of the estate was last changed by',
    who: EVERYONE,
    handle: () => changes.of(null),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/radio-changes',
    summary: 'What each radio of a site was last changed by',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => changes.of(params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/air',
    shared: true,
    summary: 'What the APs of a site last heard, and how a scan goes',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => airs.view(params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/scan',
    summary: 'How a scan of a site goes, or went the last time',
    who: EVERYONE,
    params: { siteId: ID },
    handle: async ({ params }) => ({ run: await airs.run(params['siteId']!) }),
  }),
  route<Asked>({
    method: 'post',
    path: '/api/sites/:siteId/scan-forecast',
    summary: 'What a scan of the air would do to clients; nothing is begun',
    who: EVERYONE,
    params: { siteId: ID },
    body: asked,
    handle: ({ params, body }) => scans.forecast(params['siteId']!, body.deviceIds, body.bands),
  }),
  route<Asked>({
    method: 'post',
    path: '/api/sites/:siteId/scans',
    summary: 'Have APs of a site listen to all channels, a few at a time',
    who: CHANGERS,
    status: 201,
    params: { siteId: ID },
    body: asked,
    handle: ({ params, body, caller }) => scans.start(params['siteId']!, body.deviceIds, body.bands, caller.id),
  }),
  route({
    method: 'post',
    path: '/api/sites/:siteId/scans/stop',
    summary: 'End a scan; what was heard by then is kept',
    who: CHANGERS,
    params: { siteId: ID },
    handle: ({ params }) => scans.stop(params['siteId']!),
  }),
];
