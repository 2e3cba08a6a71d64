import { firstWords } from './first-words';

describe('what was said at a gateway’s own page', () => {
  it('is told in words, however it comes to an address', () => {
    expect(firstWords({ port: 'wan1', way: 'dhcp' })).toBe('wan1 is given an address (DHCP)');
    expect(
      firstWords({ port: 'wan1', way: 'static', fixed: { address: '203.0.113.11/29', gateway: '203.0.113.9' } }),
    ).toBe('wan1 has 203.0.113.11/29, gateway 203.0.113.9');
    expect(firstWords({ port: 'wan2', way: 'pppoe', user: 'line-58', vlan: 7 })).toBe(
      'wan2 by PPPoE as line-58, VLAN 7',
    );
    expect(firstWords({ port: 'cell', way: 'cellular', apn: 'sea.example' })).toBe(
      'cell by the mobile network, access point sea.example',
    );
    expect(firstWords({ port: 'cell', way: 'cellular' })).toBe('cell by the mobile network');
  });
});
