import { inject } from '@angular/core';
import { Router, type CanActivateFn } from '@angular/router';
import { SessionStore } from './session-store';

/** Lets only signed-in people through; others sign in first and come back. */
export const signedIn: CanActivateFn = async (_route, state) => {
  const router = inject(Router);
  if (await inject(SessionStore).restore()) return true;
  return router.createUrlTree(['/sign-in'], state.url === '/' ? {} : { queryParams: { to: state.url } });
};
