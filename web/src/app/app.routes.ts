import type { Route, Routes } from '@angular/router';
import { atReception, signedIn } from './session/signed-in';
import { estateStages, siteStages, type Stage } from './shell/stage';
import { ALL_STAGES } from './stages';

const titled = (name: string): string => `${name} · Iron Lattice`;
const routeOf = ({ path, name, page }: Stage): Route => ({
  path,
  title: titled(name),
  loadComponent: page,
  ...(path === '' ? { pathMatch: 'full' } : {}),
});

/** The addresses of all stages, and of what comes before them. */
export function routesOf(stages: readonly Stage[]): Routes {
  const ofSite = siteStages(stages);
  return [
    {
      path: 'sign-in',
      title: titled('Sign in'),
      loadComponent: () => import('./session/sign-in-page').then((m) => m.SignInPage),
    },
    {
      path: 'own-password',
      title: titled('Your network password'),
      loadComponent: () => import('./session/own-password-page').then((m) => m.OwnPasswordPage),
    },
    {
      path: 'set-up',
      title: titled('Set up'),
      loadComponent: () => import('./session/set-up-page').then((m) => m.SetUpPage),
    },
    {
      path: 'reception',
      title: titled('Reception'),
      canActivate: [atReception],
      loadComponent: () => import('./guests/desk/desk-page').then((m) => m.DeskPage),
    },
    {
      path: '',
      canActivate: [signedIn],
      loadComponent: () => import('./shell/shell').then((m) => m.Shell),
      children: [
        ...estateStages(stages).map(routeOf),
        {
          path: 'sites/:siteId',
          loadComponent: () => import('./shell/site-outlet').then((m) => m.SiteOutlet),
          children: [{ path: '', pathMatch: 'full', redirectTo: ofSite[0]?.path ?? '' }, ...ofSite.map(routeOf)],
        },
      ],
    },
    { path: '**', redirectTo: '' },
  ];
}

export const routes = routesOf(ALL_STAGES);
