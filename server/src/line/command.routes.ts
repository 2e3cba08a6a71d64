import type { CommandName } from '@iron-lattice/core/line';
import type { ManyResult } from '@iron-lattice/core/intake';
import { Joi, type Schema } from '@iron-lattice/core/schema';
import { Op } from 'sequelize';
import { Device } from '../roster/device.model';
import { AppError } from '../platform/app-error';
import { CHANGERS, ID, route, type Route } from '../platform/route';
import type { CommandService } from './command.service';

const host = Joi.string().hostname().max(253);
const address = Joi.string().ip({ cidr: 'forbidden' });

/** Commands that people give; each with what its target has to be. */
const TARGETS: readonly { readonly name: CommandName; readonly target: Schema }[] = [
  { name: 'locate', target: Joi.valid('') },
  { name: 'restart', target: Joi.valid('') },
  { name: 'ping', target: Joi.alternatives(address, host) },
  { name: 'trace', target: Joi.alternatives(address, host) },
  { name: 'lookup', target: host },
];

/** What devices can be asked to do. */
export const commandRoutes = (commands: CommandService): Route[] => [
  route<{ name: CommandName; target: string }>({
    method: 'post',
    path: '/api/devices/:id/commands',
    summary: 'Have a device do something and answer',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({
      name: Joi.valid(...TARGETS.map((each) => each.name)).required(),
      target: Joi.string().max(253).allow('').required(),
    }),
    handle: async ({ params, body: { name, target }, caller }) => {
      const { error } = TARGETS.find((each) => each.name === name)!
        .target.required()
        .validate(target);
      if (error) {
        const message =
          name === 'lookup' ? `“${target}” is not a name.` : `“${target}” is neither an address nor a name.`;
        throw new AppError('command.refused', message, [{ code: 'command.target', message, field: 'target' }]);
      }
      const { ok, text } = await commands.ask(params['id']!, name, target, { personId: caller.id });
      return { ok, text };
    },
  }),
  route<{ deviceIds: string[] }>({
    method: 'post',
    path: '/api/device-restarts',
    summary: 'Restart many devices',
    who: CHANGERS,
    body: Joi.object({ deviceIds: Joi.array().items(Joi.string().uuid()).min(1).max(2000).required() }),
    handle: async ({ body, caller }): Promise<ManyResult> => {
      const rows = await Device.findAll({ where: { id: { [Op.in]: body.deviceIds } }, order: ['name'] });
      const failed: { name: string; reason: string }[] = [];
      let done = 0;
      await Promise.all(
        rows.map(async (device) => {
          try {
            await commands.ask(device.id, 'restart', '', { personId: caller.id });
            done++;
          } catch (error) {
            if (!(error instanceof AppError)) throw error;
            failed.push({ name: device.name ?? device.serial, reason: error.message });
          }
        }),
      );
      return { done, failed };
    },
  }),
  route<{ port: string; seconds: number }>({
    method: 'post',
    path: '/api/devices/:id/captures',
    summary: 'Capture what passes a port, as a pcapng file',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({
      port: Joi.string().max(12).allow('').required(),
      seconds: Joi.number().min(1).max(60).required(),
    }),
    handle: async ({ params, body, caller, context }) => {
      const { name, file } = await commands.capture(params['id']!, body.port, body.seconds, caller.id);
      context.attachment(name);
      context.type = 'application/octet-stream';
      return Buffer.from(file);
    },
  }),
];
