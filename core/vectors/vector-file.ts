/** One test vector: what goes into a named function, what has to come out, and how near. */
export interface Vector {
  readonly id: string;
  readonly fn: string;
  readonly in: unknown;
  readonly out: unknown;
  readonly tol:
    'exact' | { readonly abs?: number; readonly rel?: number; readonly fields?: Readonly<Record<string, number>> };
}

/** A file of vectors by section. */
export interface VectorFile {
  readonly sections: Readonly<Record<string, readonly Vector[]>>;
}

/** Results for all vectors of one name. */
export interface Tally {
  passed: number;
  failed: number;
  missing: number;
  readonly failures: string[];
}

/** Under it stands what a function knows besides: judged where a vector names it. */
export const MORE = Symbol('more');

/** Runs a file's vectors through an adapter. @returns tallies by name, in the file's order. */
export function runVectors(
  file: VectorFile,
  adapter: Readonly<Record<string, (input: never) => unknown>>,
): Map<string, Tally> {
  const tallies = new Map<string, Tally>();
  for (const vector of Object.values(file.sections).flat()) {
    const tally = tallies.get(vector.fn) ?? { passed: 0, failed: 0, missing: 0, failures: [] };
    tallies.set(vector.fn, tally);
    const call = Object.hasOwn(adapter, vector.fn) ? adapter[vector.fn] : undefined;
    if (!call) tally.missing++;
    else {
      const failure = judge(vector, call);
      if (failure === null) tally.passed++;
      else {
        tally.failed++;
        tally.failures.push(`${vector.id}: ${failure}`);
      }
    }
  }
  return tallies;
}

function judge(vector: Vector, call: (input: never) => unknown): string | null {
  try {
    const difference = differ(call(vector.in as never), vector.out, vector.tol);
    return difference === null ? null : `${difference} for ${JSON.stringify(vector.in)}`;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}

/** Where two values differ beyond a tolerance, or null. Only numbers are let off; keys have to be the same. */
export function differ(got: unknown, wanted: unknown, tolerance: Vector['tol'], path = ''): string | null {
  if (typeof wanted === 'number' && typeof got === 'number') {
    return near(got, wanted, tolerance, path) ? null : `${path || 'value'} is ${got}, not ${wanted}`;
  }
  if (typeof wanted !== 'object' || wanted === null || typeof got !== 'object' || got === null)
    return Object.is(got, wanted)
      ? null
      : `${path || 'value'} is ${JSON.stringify(got)}, not ${JSON.stringify(wanted)}`;
  const keys = [...new Set([...Object.keys(wanted), ...Object.keys(got)])];
  const more = (got as { readonly [MORE]?: object })[MORE];
  for (const key of keys) {
    const from = more && !Object.hasOwn(got, key) ? more : got;
    const [a, b] = [(from as Record<string, unknown>)[key], (wanted as Record<string, unknown>)[key]];
    const difference = differ(a, b, tolerance, path === '' ? key : `${path}.${key}`);
    if (difference !== null) return difference;
  }
  return null;
}

function near(got: number, wanted: number, tolerance: Vector['tol'], path: string): boolean {
  if (tolerance === 'exact') return got === wanted;
  const field = tolerance.fields?.[path.split('.').at(-1)!];
  const abs = field ?? tolerance.abs;
  const away = Math.abs(got - wanted);
  if (abs !== undefined) return away <= abs;
  return away <= (tolerance.rel ?? 0) * Math.max(1e-9, Math.abs(wanted));
}
