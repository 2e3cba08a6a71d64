import { inject } from '@angular/core';
import { Router, type CanActivateFn } from '@angular/router';
import { SessionStore } from './session-store';

/** Lets only signed-in people through; others sign in first and come back. */
export const signedIn: CanActivateFn = async (_route, state) => {
  const router = inject(Router);
  const session = inject(SessionStore);
  if (await session.restore()) return true;
  if (await session.isEmpty()) return router.createUrlTree(['/set-up']);
  return router.createUrlTree(['/sign-in'], state.url === '/' ? {} : { queryParams: { to: state.url } });
};
