import { part } from '../part';

/** Who a device is, where it is, and whether its status light stays off. */
export const identity = part({
  name: 'identity',
  kinds: ['gateway', 'switch', 'ap'],
  reads: { site: ['name', 'country', 'timeZone'], device: ['name', 'serial', 'model', 'lightOff'] },
  tells: ({ name, country, timeZone }, device) => ({
    format: 'iron-lattice.document/1',
    device: { name: device.name, serial: device.serial, model: device.model },
    site: { name, country, timeZone },
    ...(device.lightOff ? { light: 'off' } : {}),
  }),
});
