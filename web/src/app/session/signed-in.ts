import { inject } from '@angular/core';
import { Router, type CanActivateFn } from '@angular/router';
import { SessionStore } from './session-store';

/** Lets people of a reception through to their own screen, which is theirs alone. */
export const atReception: CanActivateFn = async () => {
  const router = inject(Router);
  const session = inject(SessionStore);
  if (!(await session.restore())) return router.createUrlTree(['/sign-in'], { queryParams: { to: '/reception' } });
  return session.person()?.role === 'reception' || router.createUrlTree(['/']);
};

/** Lets only signed-in people through; others sign in first and come back. Reception has a screen of its own. */
export const signedIn: CanActivateFn = async (_route, state) => {
  const router = inject(Router);
  const session = inject(SessionStore);
  if (await session.restore())
    return session.person()?.role === 'reception' ? router.createUrlTree(['/reception']) : true;
  if (await session.isEmpty()) return router.createUrlTree(['/set-up']);
  return router.createUrlTree(['/sign-in'], state.url === '/' ? {} : { queryParams: { to: state.url } });
};
