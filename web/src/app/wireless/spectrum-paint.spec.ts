import type { AirNetwork } from '@iron-lattice/core/wireless';
import { drawingOrder, networkAt } from './spectrum-paint';

const network = (
  bssid: string,
  from: number,
  to: number,
  signal: number,
  more: Partial<AirNetwork> = {},
): AirNetwork => ({
  ...{ bssid, ssid: bssid, band: '5', channel: 36, centre: 36, width: to - from, security: 'WPA2' },
  ...{ from, to, signal, sentBy: null, lookalike: false, heardBy: [] },
  ...more,
});

describe('what is drawn of the air', () => {
  const wide = network('wide', 5170, 5250, -50);
  const narrow = network('narrow', 5170, 5190, -60);
  const ours = [1, 2].map((n) => network(`ours ${n}`, 5170, 5210, -40, { sentBy: 'ap-1' }));

  it('draws the softest first, a radio of ours once, and outlines that are alike once', () => {
    const { networks, outlines, prominent } = drawingOrder(
      [...ours, narrow, wide, { ...wide, bssid: 'twin' }],
      'narrow',
    );
    expect(networks.map(({ bssid }) => bssid)).toEqual(['narrow', 'wide', 'twin', 'ours 1']);
    expect(outlines.map(({ bssid }) => bssid)).toEqual(['narrow', 'wide']);
    expect(prominent.map(({ bssid }) => bssid)).toContain('narrow');
  });

  it('finds the network under a place, the narrowest first, and none above all of them', () => {
    const scene = { ...drawingOrder([wide, narrow], null), channels: [], chosen: null };
    expect(networkAt(scene, 5180, -80)?.bssid).toBe('narrow');
    expect(networkAt(scene, 5180, -55)?.bssid).toBe('wide');
    expect(networkAt(scene, 5240, -80)?.bssid).toBe('wide');
    expect(networkAt(scene, 5240, -30)).toBeNull();
  });
});
