import { factoryDocument } from './factory-document';
import type { WorldFile } from './world-file';

/** A gateway, a switch behind it, and an AP on its port 1. */
export const SMALL_WORLD: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: [
    { serial: 'GW', model: 'GW-4', mac: '02:00:00:00:00:01', firmware: '1' },
    { serial: 'SW', model: 'SW-8P', mac: '02:00:00:00:00:02', firmware: '1' },
    { serial: 'A', model: 'AP-6', mac: '02:00:00:00:00:10', firmware: '1' },
  ],
  cables: [
    ['GW:1', 'SW:9'],
    ['SW:1', 'A:lan'],
  ],
  providers: [{ name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9' } }],
  clients: [],
};

/** What a device of it does out of the carton. */
export const factory = (serial: string) => factoryDocument(SMALL_WORLD.devices.find((each) => each.serial === serial)!);
