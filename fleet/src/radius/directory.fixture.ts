import { checkDirectory } from './directory-file';

export const SECRET = 'gulls-over-the-quay-at-low-tide-7';

/** A directory of a few, for tests. */
export const DIRECTORY = checkDirectory({
  format: 'iron-lattice.radius/1',
  servers: [{ name: 'radius.test.example', address: '198.51.100.90', port: 1812, accounting: 1813, secret: SECRET }],
  groups: { crew: { filterId: 'Crew', session: 3600 }, tills: { vlan: 'Ticketing' } },
  users: {
    'marn.ellis': { password: 'lantern fish 4', group: 'crew', class: 'tariff 3' },
    'jory.pell': { password: 'påskegås', group: 'tills', session: 600 },
  },
  macs: {
    '0e:c4:60:00:00:01': { group: 'tills' },
    '0e:c4:60:00:00:09': { keys: [{ key: 'berth nine key', vlan: 'Berth 9' }] },
  },
});
