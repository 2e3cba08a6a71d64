import type { randomBy } from './faults';

type Random = ReturnType<typeof randomBy>;
type Schema = any; // JSON Schema, as the API gives it of itself

interface Request {
  readonly method: string;
  readonly path: string;
  readonly body?: unknown;
}

/** Texts that somebody sends sooner or later. */
const NASTY = [
  '',
  ' ',
  '\0',
  'a\0b',
  '\ud800',
  'ok',
  'Crew',
  '10.12.1.0/24',
  '10.0.0.1',
  'fd00::1',
  '../../etc/passwd',
  '%00',
  "'; DROP TABLE device; --",
  '<script>alert(1)</script>',
  '=1+1',
  '2026-02-31',
  '9'.repeat(30),
  '１２',
  '\u202eabc',
  'x'.repeat(5000),
  '02:00:00:00:00:01',
  'Europe/Dublin',
  'IE',
];
const NUMBERS = [0, 1, -1, 10, 4094, 4095, 65_535, 1.5, 1e9, 2 ** 53, -(2 ** 31), 1e308, 443];
/** Routes that would end the sessions everything else needs, or that never end themselves. */
const LEFT_OUT = new Set(['delete /api/session', 'get /api/events', 'post /api/set-up', 'post /api/session']);

/** Requests without end, made from what the API says of itself: most nearly right, some plainly wrong. */
export function* requestsFrom(document: Schema, random: Random, known: readonly string[]): Generator<Request> {
  const routes = Object.entries(document.paths as Record<string, Record<string, Schema>>).flatMap(([path, methods]) =>
    Object.entries(methods).flatMap(([method, of]) =>
      LEFT_OUT.has(`${method} ${path}`) ? [] : [{ path, method, of }],
    ),
  );
  for (;;) {
    const { path, method, of } = random.pick(routes);
    const make = (schema: Schema): unknown => valueOf(schema, random, known, 0);
    const filled = path.replace(/\{(\w+)\}/g, (_all, name: string) => {
      const parameter = of.parameters?.find((each: Schema) => each.name === name && each.in === 'path');
      return encodeURIComponent(wellFormed(String(make(parameter?.schema ?? { type: 'string' }))));
    });
    const query = (of.parameters ?? [])
      .filter((each: Schema) => each.in === 'query' && (each.required || random.below(2) === 0))
      .map((each: Schema) => `${each.name}=${encodeURIComponent(wellFormed(String(make(each.schema))))}`)
      .join('&');
    const schema = of.requestBody?.content?.['application/json']?.schema;
    const full = query === '' ? filled : `${filled}?${query}`;
    yield { method: method.toUpperCase(), path: full, ...(schema ? { body: make(schema) } : {}) };
  }
}

/** A path cannot hold half a character; a body can. */
const wellFormed = (text: string): string => (/\p{Cs}/u.test(text) ? 'x' : text);

/** A value that a schema asks for; one in twelve is something else. */
function valueOf(schema: Schema, random: Random, known: readonly string[], depth: number): unknown {
  const again = (of: Schema): unknown => valueOf(of, random, known, depth + 1);
  if (depth > 8) return null;
  if (random.below(12) === 0)
    return random.pick<unknown>([
      null,
      true,
      [],
      {},
      random.pick(NASTY),
      random.pick(NUMBERS),
      [[[[]]]],
      { a: { b: 1 } },
    ]);
  if (schema.const !== undefined) return schema.const;
  if (schema.enum) return random.pick(schema.enum as unknown[]);
  for (const key of ['anyOf', 'oneOf'] as const) if (schema[key]) return again(random.pick(schema[key] as Schema[]));
  const type = Array.isArray(schema.type) ? random.pick(schema.type as string[]) : schema.type;
  switch (type) {
    case 'object': {
      const out: Record<string, unknown> = {};
      const required = new Set<string>(schema.required ?? []);
      for (const [name, of] of Object.entries(schema.properties ?? {}))
        if (required.has(name) ? random.below(25) > 0 : random.below(2) === 0) out[name] = again(of);
      if (random.below(30) === 0) out[random.pick(NASTY)] = 1;
      return out;
    }
    case 'array':
      return Array.from({ length: random.below(4) }, () => again(schema.items ?? {}));
    case 'integer':
    case 'number': {
      const { minimum: least = 0, maximum: most = 100 } = schema;
      return random.below(4) === 0 ? random.pick(NUMBERS) : least + random.below(Math.max(1, most - least + 1));
    }
    case 'boolean':
      return random.below(2) === 0;
    case 'null':
      return null;
    case 'string':
      if (schema.format === 'uuid' || schema.format === 'guid') return random.pick(known);
      return random.pick(NASTY);
    default:
      return random.pick<unknown>([random.pick(known), random.pick(NASTY), random.pick(NUMBERS), null]);
  }
}
