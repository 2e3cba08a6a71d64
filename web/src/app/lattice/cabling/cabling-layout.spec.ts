import { sampleSite } from '@iron-lattice/core/testing';
import { BOX, layCabling } from './cabling-layout';

describe('the layout of the cabling', () => {
  const { roster, links } = sampleSite({ segments: 2, aps: 30 });
  const nodes = layCabling(roster, links, {});
  const at = (name: string) => nodes.find((node) => node.name === name)!;

  it('hangs everything under what it hangs on, and lays nothing over anything else', () => {
    expect([at('x-gw-01').y, at('x-sw-01').y, at('x-sw-02').y]).toEqual([0, BOX.down, 2 * BOX.down]);
    expect(at('x-ap-01').y).toBeGreaterThan(at('x-sw-01').y);
    for (const [i, a] of nodes.entries())
      for (const b of nodes.slice(i + 1))
        expect(Math.abs(a.x - b.x) >= BOX.width || Math.abs(a.y - b.y) >= BOX.height).toBe(true);
  });

  it('is the same for the same cables whatever order they come in, and keeps what people placed', () => {
    expect(layCabling([...roster].reverse(), [...links].reverse(), {})).toEqual(nodes);
    const placed = layCabling(roster, links, { [roster[1]!.id]: [7, 9] });
    expect(placed.find((node) => node.id === roster[1]!.id)).toMatchObject({ x: 7, y: 9 });
    expect(placed.filter((node) => node.id !== roster[1]!.id)).toEqual(
      nodes.filter((node) => node.id !== roster[1]!.id),
    );
  });

  it('shows devices that no cable joins, apart', () => {
    const lone = layCabling(roster, [], {});
    expect(lone).toHaveLength(roster.length);
    expect(new Set(lone.map(({ x, y }) => `${x} ${y}`)).size).toBe(roster.length);
  });
});
