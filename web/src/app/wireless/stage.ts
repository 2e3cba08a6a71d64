import { byId, type Stage } from '../shell/stage';

export const wireless: readonly Stage[] = [
  {
    at: 'site',
    path: 'wireless',
    name: 'Wireless',
    page: () => import('./wireless-page').then((m) => m.WirelessPage),
    add: 'Add SSID',
    findings: { ssid: byId, radio: ({ id, port }) => `radio:${id}:${port}`, mesh: ({ id }) => `mesh:${id}` },
  },
  {
    at: 'estate',
    path: 'wireless',
    name: 'Wireless',
    title: 'SSIDs of all sites',
    page: () => import('./shared-ssids-page').then((m) => m.SharedSsidsPage),
    add: 'Add SSID',
    hits: { ssid: byId, hours: ({ id }) => `hours:${id}` },
    shows: 'shared',
  },
];
