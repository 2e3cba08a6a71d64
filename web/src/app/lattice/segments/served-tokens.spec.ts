import type { RosterDevice, ServedFrom } from '@iron-lattice/core/intent';
import { pressBox, servedBy, servedCell, servedTokens, servingBoxes, writeServed } from './served-tokens';

const box = (id: string, model: string): RosterDevice => ({ id, siteId: 's', name: `pier-${id}`, serial: id, model });
const roster = [box('gw-01', 'GW-4'), box('sw-01', 'SW-24P'), box('ap-01', 'AP-6'), box('ap-02', 'AP-6')];
const device = (id: string) => roster.find((each) => each.id === id)!;

describe('what gives a segment’s addresses, as text', () => {
  it.each<[ServedFrom, string, string]>([
    [{ kind: 'gateway' }, 'gateway', 'gateway'],
    [{ kind: 'switch', deviceId: 'sw-01', address: '10.0.0.2' }, 'pier-sw-01', 'switch pier-sw-01 10.0.0.2'],
    [{ kind: 'relay', server: '10.9.0.5' }, '10.9.0.5', 'relay 10.9.0.5'],
    [{ kind: 'ap', how: 'each', deviceIds: [] }, 'every AP', 'each ap'],
    [{ kind: 'ap', how: 'one', deviceIds: ['ap-01'] }, 'pier-ap-01', 'one ap pier-ap-01'],
    [
      { kind: 'ap', how: 'tree', deviceIds: ['ap-01', 'ap-02'] },
      'pier-ap-01, pier-ap-02',
      'tree pier-ap-01 pier-ap-02',
    ],
  ])('reads %o as %s, and says it in a list', (from, text, cell) => {
    expect(writeServed(from, roster)).toBe(text);
    expect(servedCell(text, '10.0.0.2', roster)).toBe(cell);
  });

  it('tells what it comes to, and who gives then', () => {
    expect(
      ['', 'gateway', 'pier-gw-01', 'pier-sw-01', '10.9.0.5', 'EVERY ap', 'pier-ap-02'].map((text) =>
        servedBy(text, roster),
      ),
    ).toEqual(['nobody', 'gateway', 'gateway', 'switch', 'server', 'every ap', 'aps']);
    expect([...servingBoxes('every AP', roster)]).toEqual(['ap-01', 'ap-02']);
    expect([...servingBoxes('gateway', roster)]).toEqual(['gw-01']);
    expect([...servingBoxes('PIER-ap-02', roster)]).toEqual(['ap-02']);
    expect([...servingBoxes('10.9.0.5', roster)]).toEqual([]);
  });

  it('takes APs beside each other, and anything else alone: what comes last is meant', () => {
    const { read, join } = servedTokens(roster);
    expect(join(read('gateway, pier-ap-01, pier-ap-02'))).toBe('pier-ap-01, pier-ap-02');
    expect(join(read('pier-ap-01, pier-sw-01'))).toBe('pier-sw-01');
    expect(join(read('pier-ap-01, every ap'))).toBe('every AP');
    expect(read('nobody-here')).toMatchObject([{ bad: true }]);
  });

  it('follows presses of boxes on the cabling', () => {
    const press = (text: string, id: string) => pressBox(text, device(id), roster);
    expect(press('gateway', 'ap-01')).toBe('pier-ap-01');
    expect(press('pier-ap-01', 'ap-02')).toBe('pier-ap-01, pier-ap-02');
    expect(press('pier-ap-01, pier-ap-02', 'ap-01')).toBe('pier-ap-02');
    expect(press('pier-ap-02', 'ap-02')).toBe('');
    expect(press('pier-ap-02', 'gw-01')).toBe('gateway');
    expect(press('every AP', 'ap-01')).toBe('pier-ap-02');
    expect(press('', 'sw-01')).toBe('pier-sw-01');
  });
});
