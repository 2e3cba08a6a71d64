import { SERIAL_SAMPLE, SITE_SAMPLE, type ImportRequest } from '@iron-lattice/core/intake';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, route, type Route } from '../platform/route';
import { writeTable } from '../platform/list-table';
import type { ListService } from './list.service';

/** Octets of a list; 20,000 rows have some 2 MB. */
const MOST = 8_000_000;
const importing = Joi.object({ token: Joi.string().uuid().required(), leaveOutBad: Joi.boolean().required() });

const sample = (path: string, name: string, rows: readonly (readonly string[])[]): Route =>
  route({
    method: 'get',
    path,
    summary: `A sample of a ${name} list (CSV)`,
    who: EVERYONE,
    handle: ({ context }) => {
      context.attachment(`${name}-sample.csv`);
      context.type = 'text/csv';
      return writeTable(rows);
    },
  });

/** Lists of serial numbers and of sites: preview and import. */
export const listRoutes = (lists: ListService): Route[] => [
  sample('/api/serial-lists/sample', 'serial', SERIAL_SAMPLE),
  sample('/api/site-lists/sample', 'site', SITE_SAMPLE),
  route({
    method: 'post',
    path: '/api/serial-lists',
    summary: 'Look at a list of serial numbers (CSV, XLSX or typed), row by row',
    who: CHANGERS,
    query: { siteId: Joi.string().uuid() },
    upload: MOST,
    handle: ({ upload, query, caller }) => lists.previewSerials(upload, query['siteId'] ?? null, caller.id),
  }),
  route<ImportRequest>({
    method: 'post',
    path: '/api/serial-lists/import',
    summary: 'Expect the devices of a list that was looked at',
    who: CHANGERS,
    status: 201,
    body: importing,
    handle: ({ body, caller }) => lists.importSerials(body, caller.id),
  }),
  route({
    method: 'post',
    path: '/api/site-lists',
    summary: 'Look at a list of sites (CSV or XLSX), row by row',
    who: CHANGERS,
    upload: MOST,
    handle: ({ upload, caller }) => lists.previewSites(upload, caller.id),
  }),
  route<ImportRequest>({
    method: 'post',
    path: '/api/site-lists/import',
    summary: 'Add the sites of a list that was looked at',
    who: CHANGERS,
    status: 201,
    body: importing,
    handle: ({ body, caller }) => lists.importSites(body, caller.id),
  }),
];
