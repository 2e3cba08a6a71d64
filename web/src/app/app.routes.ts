import type { Routes } from '@angular/router';
import { signedIn } from './session/signed-in';

export const routes: Routes = [
  {
    path: 'sign-in',
    title: 'Sign in · Iron Lattice',
    loadComponent: () => import('./session/sign-in-page').then((m) => m.SignInPage),
  },
  {
    path: 'set-up',
    title: 'Set up · Iron Lattice',
    loadComponent: () => import('./session/set-up-page').then((m) => m.SetUpPage),
  },
  {
    path: '',
    canActivate: [signedIn],
    loadComponent: () => import('./shell/shell').then((m) => m.Shell),
    children: [
      {
        path: '',
        pathMatch: 'full',
        title: 'Sites · Iron Lattice',
        loadComponent: () => import('./estate/estate-page').then((m) => m.EstatePage),
      },
      {
        path: 'devices',
        title: 'Devices · Iron Lattice',
        loadComponent: () => import('./intake/intake-page').then((m) => m.IntakePage),
      },
      {
        path: 'firmware',
        title: 'Firmware · Iron Lattice',
        loadComponent: () => import('./firmware/firmware-page').then((m) => m.FirmwarePage),
      },
      {
        path: 'sites/:siteId',
        loadComponent: () => import('./shell/site-outlet').then((m) => m.SiteOutlet),
        children: [
          { path: '', pathMatch: 'full', redirectTo: 'intake' },
          {
            path: 'intake',
            title: 'Intake · Iron Lattice',
            loadComponent: () => import('./intake/intake-page').then((m) => m.IntakePage),
          },
          {
            path: 'lattice',
            title: 'Lattice · Iron Lattice',
            loadComponent: () => import('./lattice/lattice-page').then((m) => m.LatticePage),
          },
          {
            path: 'wireless',
            title: 'Wireless · Iron Lattice',
            loadComponent: () => import('./wireless/wireless-page').then((m) => m.WirelessPage),
          },
          {
            path: 'rules',
            title: 'Rules · Iron Lattice',
            loadComponent: () => import('./rules/rules-page').then((m) => m.RulesPage),
          },
          {
            path: 'entry',
            title: 'Entry · Iron Lattice',
            loadComponent: () => import('./entry/entry-page').then((m) => m.EntryPage),
          },
          {
            path: 'bench',
            title: 'Bench · Iron Lattice',
            loadComponent: () => import('./bench/bench-page').then((m) => m.BenchPage),
          },
          {
            path: 'rollout',
            title: 'Rollout · Iron Lattice',
            loadComponent: () => import('./rollout/rollout-page').then((m) => m.RolloutPage),
          },
        ],
      },
    ],
  },
  { path: '**', redirectTo: '' },
];
