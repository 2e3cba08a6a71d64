import { HttpErrorResponse, type HttpInterceptorFn } from '@angular/common/http';
import { inject, type WritableSignal } from '@angular/core';
import { Router } from '@angular/router';
import type { Flaw } from '@iron-lattice/core/base';
import { catchError, throwError } from 'rxjs';

/** A refused request, as the controller words it (RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly flaws: readonly Flaw[],
  ) {
    super(message);
  }

  /** What is wrong with one field; empty when nothing is. */
  of(field: string): string {
    return this.flaws
      .filter((flaw) => flaw.field === field)
      .map((flaw) => flaw.message)
      .join(' ');
  }
}

/** Whatever was thrown, as a problem that a form can show. */
export const problemOf = (error: unknown): Problem =>
  error instanceof Problem ? error : new Problem('unknown', error instanceof Error ? error.message : String(error), []);

/** Turns failed answers into problems; a lost session leads to signing in again. */
export const asProblem: HttpInterceptorFn = (request, next) => {
  const router = inject(Router);
  return next(request).pipe(
    catchError((error: unknown) => {
      if (!(error instanceof HttpErrorResponse)) return throwError(() => error);
      // Status 0: there was no answer, and `error` holds the browser's event.
      const body = (error.status !== 0 && typeof error.error === 'object' ? error.error : null) as {
        type?: string;
        title?: string;
        flaws?: Flaw[];
      } | null;
      const code = body?.type?.split('/').at(-1) ?? 'unreachable';
      if (code === 'session.none' && !router.url.startsWith('/sign-in')) void router.navigate(['/sign-in']);
      const lost = 'The controller does not answer. Nothing was changed; try again in a moment.';
      return throwError(() => new Problem(code, body?.title ?? lost, body?.flaws ?? []));
    }),
  );
};

/**
 * Does something while `busy` holds, and keeps in `problem` what was refused.
 * @returns whether it was done.
 */
export async function attempt(
  busy: WritableSignal<boolean> | null,
  problem: WritableSignal<Problem | null>,
  act: () => Promise<unknown>,
): Promise<boolean> {
  busy?.set(true);
  problem.set(null);
  try {
    await act();
    return true;
  } catch (error) {
    problem.set(problemOf(error));
    return false;
  } finally {
    busy?.set(false);
  }
}
