import { byId, type Stage } from '../shell/stage';

export const wireless: readonly Stage[] = [
  {
    at: 'site',
    path: 'wireless',
    name: 'Wireless',
    page: () => import('./wireless-page').then((m) => m.WirelessPage),
    add: 'Add SSID',
    hits: ['ssid'],
    findings: { ssid: byId },
  },
];
