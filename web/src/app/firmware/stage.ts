import type { Stage } from '../shell/stage';

export const firmware: readonly Stage[] = [
  {
    at: 'estate',
    path: 'firmware',
    name: 'Firmware',
    page: () => import('./firmware-page').then((m) => m.FirmwarePage),
  },
];
