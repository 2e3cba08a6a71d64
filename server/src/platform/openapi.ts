import type { Schema } from '@iron-lattice/core/schema';
import { bodyLimitOf, type Route } from './route';

type JsonSchema = Record<string, unknown>;

/** The JSON Schema (2020-12) that Joi gives of one of its schemas. */
function schemaOf(schema: Schema): JsonSchema {
  const standard = (schema as unknown as { '~standard': { jsonSchema: { input(options: object): JsonSchema } } })[
    '~standard'
  ];
  const { $schema: _dialect, ...rest } = standard.jsonSchema.input({ target: 'draft-2020-12' });
  return rest;
}

const PROBLEM = {
  description: 'A problem document (RFC 9457)',
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
};

/** Describes the API as OpenAPI 3.1 from the very schemas that requests are checked against. */
export function openApiOf(routes: readonly Route[], version: string): JsonSchema {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const route of routes) {
    const path = route.path.replace(/:(\w+)/g, '{$1}');
    (paths[path] ??= {})[route.method] = describe(route);
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Iron Lattice', version, license: { name: 'Apache-2.0', identifier: 'Apache-2.0' } },
    paths,
    components: {
      securitySchemes: { session: { type: 'apiKey', in: 'cookie', name: 'lattice' } },
      schemas: {
        Problem: {
          type: 'object',
          required: ['type', 'title', 'status'],
          properties: {
            type: { type: 'string' },
            title: { type: 'string' },
            status: { type: 'integer' },
            instance: { type: 'string' },
            flaws: {
              type: 'array',
              items: {
                type: 'object',
                required: ['code', 'message'],
                properties: { code: { type: 'string' }, message: { type: 'string' }, field: { type: 'string' } },
              },
            },
          },
        },
      },
    },
  };
}

function describe(route: Route): JsonSchema {
  const parameters = [
    ...Object.entries(route.params ?? {}).map(([name, schema]) => ({
      name,
      in: 'path',
      required: true,
      schema: schemaOf(schema),
    })),
    ...Object.entries(route.query ?? {}).map(([name, schema]) => ({
      name,
      in: 'query',
      required: schema.describe().flags?.['presence' as never] === 'required',
      schema: schemaOf(schema),
    })),
  ];
  const roles = route.who === 'anyone' ? [] : route.who;
  return {
    summary: route.summary,
    ...(roles.length > 0
      ? { security: [{ session: [] }], description: `For: ${roles.join(', ')}.` }
      : { security: [] }),
    ...(parameters.length > 0 ? { parameters } : {}),
    ...(route.body
      ? {
          requestBody: {
            required: true,
            description: `At most ${bodyLimitOf(route)} octets.`,
            content: { 'application/json': { schema: schemaOf(route.body) } },
          },
        }
      : {}),
    ...(route.upload === undefined
      ? {}
      : {
          requestBody: {
            required: true,
            description: `At most ${route.upload} octets.`,
            content: { 'application/octet-stream': {} },
          },
        }),
    responses: { [String(route.status ?? 200)]: { description: 'Done' }, default: PROBLEM },
  };
}
