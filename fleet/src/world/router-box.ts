import type { Box } from './box';
import { routerDocument, type WorldRouter } from './world-router';

/** A box of the world that is one. */
export const routerBox = (router: WorldRouter): Box => ({
  device: { serial: router.name, model: 'GW-4', mac: router.mac, firmware: '0' },
  document: routerDocument(router),
  router,
  ...{ secrets: {}, rings: new Map(), powered: router.off !== true, cables: new Map() },
  ...{ hangs: null, hung: [], island: [] },
});
