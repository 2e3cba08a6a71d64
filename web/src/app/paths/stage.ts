import { byId, type Stage } from '../shell/stage';

/** How sites reach the internet: uplinks, how they are watched, shared, and stand in for each other. */
export const paths: readonly Stage[] = [
  {
    at: 'site',
    path: 'paths',
    name: 'Paths',
    page: () => import('./paths-page').then((m) => m.PathsPage),
    findings: {
      uplink: ({ id, port }) => `${id}:${port ?? ''}`,
      course: ({ id }) => `course:${id}`,
      publication: ({ id }) => `published:${id}`,
      translation: ({ id }) => `translation:${id}`,
      route: ({ id }) => `route:${id}`,
      router: ({ id }) => `router:${id}`,
      pact: ({ id }) => `pact:${id}`,
      member: ({ id }) => `joined:${id}`,
      pair: () => 'pair',
    },
    hits: {
      course: ({ id }) => `course:${id}`,
      publication: ({ id }) => `published:${id}`,
      translation: ({ id }) => `translation:${id}`,
      route: ({ id }) => `route:${id}`,
      router: ({ id }) => `router:${id}`,
      pact: ({ id }) => `pact:${id}`,
    },
  },
  {
    at: 'estate',
    path: 'paths',
    name: 'Paths',
    title: 'Paths of all sites: what failures come to, and routes of many sites',
    page: () => import('./failures-page').then((m) => m.FailuresPage),
    hits: { route: byId },
  },
  {
    at: 'estate',
    path: 'joined',
    name: 'Joined',
    title: 'Sites that are joined by tunnels, and the way between any two',
    page: () => import('./joined/joined-page').then((m) => m.JoinedPage),
    add: 'Join a site',
    hits: { member: byId },
    shows: 'shared',
  },
];
