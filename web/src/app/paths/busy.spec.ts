import { leavingSetting, resolve, uplinkSettings } from '@iron-lattice/core/intent';
import { sampleSite } from '@iron-lattice/core/testing';
import { busyTable, speedWords } from './busy-rows';
import type { GatewayRow } from './path-rows';

const { intent, site, roster } = sampleSite({ segments: 2, aps: 1 });
const device = roster.find(({ model }) => model.startsWith('GW'))!;
const part = intent.sites.get(site.id)!;

describe('what each segment gets while all are busy', () => {
  it('stands beside what was measured, for each uplink that is kept below what it can do', () => {
    const said = {
      ...part,
      uplinks: { [device.id]: { wan1: { down: 100, up: 20, below: 90, title: 'Tidewire' } } },
      leaving: { [device.id]: { parts: { [site.segments[1]!.id]: 2 } } },
    };
    const uplinks = uplinkSettings(said, device).map((setting) => ({ port: setting.port, setting }));
    const row = { device, uplinks, leaving: leavingSetting(said, device) } as unknown as GatewayRow;
    const measured = new Map([['wan1', [{ vlan: site.segments[0]!.vlan, down: 29.8, up: 6 }]]]);
    const table = busyTable(resolve(intent.estate, said), roster, row, measured);
    expect(table.uplinks).toEqual([{ port: 'wan1', title: 'Tidewire', vlans: site.segments.map(({ vlan }) => vlan) }]);
    expect(table.rows.map(({ weight, cells }) => [weight, cells[0]!.gets, cells[0]!.measured])).toEqual([
      [1, '30 / 6 Mb/s', '29.8 / 6 Mb/s'],
      [2, '60 / 12 Mb/s', ''],
    ]);
  });

  it('is nothing while no uplink is kept to anything', () => {
    const uplinks = uplinkSettings(part, device).map((setting) => ({ port: setting.port, setting }));
    const row = { device, uplinks, leaving: leavingSetting(part, device) } as unknown as GatewayRow;
    expect(busyTable(resolve(intent.estate, part), roster, row, new Map())).toEqual({ uplinks: [], rows: [] });
    expect(speedWords(0.257, 1234.5)).toBe('0.26 / 1235 Mb/s');
  });
});
