import type { Ssid } from '@iron-lattice/core/intent';
import { exceptionEdit, hereText, otherwiseWords } from './ssid-exception';

const ssid: Ssid = {
  ...{ id: 's', name: 'Deck', security: 'wpa2-wpa3-psk', passphrase: { secret: 'shared' }, bands: ['2.4', '5'] },
  ...{ segment: 'Crew', reach: { kind: 'estate' }, most: 50 },
};
const told = (of: Ssid, change: Partial<ReturnType<typeof hereText>>) =>
  exceptionEdit(of, of, 'petrel', { ...hereText(of, 'petrel'), ...change });

describe('what one site says otherwise', () => {
  it('is what differs from what all have, and speaks of that site alone', () => {
    const elsewhere = { ...ssid, exceptions: { guillemot: { off: true } } };
    const { operation, secrets } = told(elsewhere, { bands: ['5'], most: '20', hidden: false });
    expect(operation).toEqual({
      ...{ type: 'ssid.set', ssidId: 's', from: { exceptions: {} } },
      to: { exceptions: { petrel: { bands: ['5'], most: 20 } } },
    });
    expect(secrets).toEqual({});
  });

  it('has a passphrase of its own beside the edit, keeps it while nothing is typed, and gives it up', () => {
    const { operation, secrets } = told(ssid, { own: true, passphrase: 'gulls over petrel' });
    const [secret] = Object.keys(secrets);
    expect(secrets).toEqual({ [secret!]: 'gulls over petrel' });
    expect(operation).toMatchObject({ to: { exceptions: { petrel: { passphrase: { secret } } } } });
    expect(JSON.stringify(operation)).not.toContain('gulls');
    const kept = { ...ssid, exceptions: { petrel: { passphrase: { secret: 'own' }, most: 20 } } };
    expect(hereText(kept, 'petrel')).toMatchObject({ own: true, most: '20', passphrase: '' });
    expect(told(kept, { most: '50' }).operation).toMatchObject({
      from: { exceptions: kept.exceptions },
      to: { exceptions: { petrel: { passphrase: { secret: 'own' } } } },
    });
    expect(told(kept, { most: '50', own: false }).operation).toMatchObject({ to: { exceptions: {} } });
  });

  it('is empty of a number where all have one, and off or sent whatever all are', () => {
    expect(told(ssid, { most: '' }).operation).toMatchObject({ to: { exceptions: { petrel: { most: null } } } });
    expect(told({ ...ssid, off: true }, { off: false }).operation).toMatchObject({
      to: { exceptions: { petrel: { off: false } } },
    });
  });

  it('tells how multicast is kept down, and whether clients are steered', () => {
    expect(told(ssid, { multicast: 'none', steer: true }).operation).toMatchObject({
      to: { exceptions: { petrel: { multicast: 'none', steer: true } } },
    });
    expect(
      told({ ...ssid, steer: true, multicast: 'each' }, { multicast: null, steer: false }).operation,
    ).toMatchObject({
      to: { exceptions: { petrel: { multicast: null, steer: false } } },
    });
  });

  it('is named in words', () => {
    const said = { ...ssid, exceptions: { petrel: { off: true, segment: 'Deck', bands: ['5'] as const } } };
    expect(otherwiseWords(said, 'petrel')).toBe('whether it is sent, segment and bands');
    expect(otherwiseWords(said, 'guillemot')).toBe('');
  });
});
