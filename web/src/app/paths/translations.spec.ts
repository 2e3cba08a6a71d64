import type { Translation } from '@iron-lattice/core/intent';
import { readEnds } from '@iron-lattice/core/rules';
import type { GatewayRow } from './path-rows';
import { translationRows } from './translation-rows';
import { newTranslation, translationTextOf, translationTyped } from './translation-text';
import { turnSteps } from './turn-steps';

const translation = (more: Partial<Translation> = {}): Translation => ({
  ...{ id: 't', deviceId: 'g', name: 'Payments', turn: 1, port: 'wan1', from: readEnds('segment Ticketing') },
  ...{ to: readEnds('internet'), as: 'pool', pool: '203.0.113.12-203.0.113.14', ...more },
});
const gateway = {
  device: { id: 'g' },
  uplinks: [{ port: 'wan1', setting: { title: 'Tidewire' } }],
} as unknown as GatewayRow;
const rows = (...translations: Translation[]) =>
  translationRows({ translations }, gateway).map(({ name, cells }) => [name, ...cells.map(({ text }) => text)]);

describe('as what people are seen outside', () => {
  it('reads as it is kept, and is kept as it reads', () => {
    const { id: _id, deviceId: _of, turn: _turn, ...fields } = translation();
    expect(translationTyped(translationTextOf(translation()), { segment: ['Ticketing'] })).toEqual({
      ...fields,
      off: null,
    });
    // What was typed as a pool is of no use to somebody who leaves as itself.
    expect(translationTyped({ ...newTranslation('wan1'), as: 'itself', pool: '203.0.113.12' }, {}).pool).toBeNull();
  });

  it('stands in its turn, with whom, by which uplink, and as what', () => {
    expect(
      rows(
        translation({ turn: 5 }),
        translation({ id: 'u', name: 'Rest', from: readEnds('any'), as: 'uplink', pool: null, port: 'wan2' }),
      ),
    ).toEqual([
      ['Rest', 'everybody → internet', 'by wan2', 'as the uplink’s address'],
      ['Payments', 'segment Ticketing → internet', 'by Tidewire', 'as 203.0.113.12-203.0.113.14'],
    ]);
    expect(rows(translation({ off: true }))[0]!.at(-1)).toBe('off');
  });

  it('changes places with the one beside it, though both came at the same time', () => {
    const [one, other] = [
      { id: 'a', turn: 3 },
      { id: 'b', turn: 4 },
    ];
    expect(turnSteps(one, other, 1)).toEqual([
      { id: 'b', from: 4, to: 3 },
      { id: 'a', from: 3, to: 4 },
    ]);
    expect(turnSteps(other, one, -1)).toHaveLength(2);
    expect(turnSteps(one, { id: 'b', turn: 3 }, 1)).toEqual([{ id: 'a', from: 3, to: 4 }]);
  });
});
