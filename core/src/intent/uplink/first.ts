import { flaw, type Flaw } from '../../base';
import type { FirstUplink } from '../../document';
import { sheetFor, type Modelled, type SheetPort } from '../../hardware';
import { checkUplink } from './check';
import { passwordFlaws } from './secrets';
import { uplinkBase } from './setting';

/** Ports of a gateway that something can be said of at its own page: those that face providers as it comes out of the carton. */
export const firstPorts = (device: Modelled): readonly SheetPort[] => {
  const { kind, ports } = sheetFor(device);
  return kind === 'gateway' ? ports.filter(({ role }) => role === 'wan') : [];
};

/**
 * What is wrong with what somebody says at a gateway’s own page, by itself: nothing is known of an estate there. Fields are those of
 * an uplink.
 */
export function checkFirst(device: Modelled, said: FirstUplink<string>): Flaw[] {
  const { port, login, ...rest } = said;
  if (!firstPorts(device).some(({ name }) => name === port))
    return [flaw('uplink.port', `${port} of a ${device.model} leads to no provider.`, 'port')];
  const box = { id: '', siteId: '', name: `this ${device.model}`, serial: '', ...device };
  const kept = login ? { login: { user: login.user, password: { secret: '' } } } : {};
  return [
    ...checkUplink(new Map(), box, port, { ...uplinkBase(box, port), ...rest, ...kept }),
    ...(login ? passwordFlaws(login.password) : []),
  ];
}
