import { describe, expect, it } from 'vitest';
import { outlookOf, USUAL_LASTS, USUAL_OFFERS, type Pact } from '@iron-lattice/core/intent';
import type { PactReport } from '@iron-lattice/core/paths';
import { pactTextOf, pactTyped } from './pact-text';
import { faresWords, outlookRows, stepRows } from './pact-words';

const PACT: Pact = {
  ...{ id: 'p', name: 'Wrackline Yard', at: '203.0.113.60', own: 'aq.example', other: 'gw.wrackline.example' },
  ...{ key: { secret: 's' }, ...USUAL_OFFERS, segments: ['crew'], behind: ['172.20.0.0/16', '172.21.0.0/16'] },
};
const HERE = ['10.10.10.0/24'];

describe('what is said of a tunnel to a gateway of others', () => {
  it('reads back as it was typed', () => {
    const { id: _id, ...fields } = PACT;
    const plain = { ...fields, prefixes: null, lasts: null, says: null, purpose: null };
    expect(pactTyped(pactTextOf(PACT, HERE), PACT.key)).toEqual(plain);
    const said: Pact = {
      ...{ ...PACT, lasts: { ike: 7200, esp: 1800 }, prefixes: ['10.11.0.0/16'] },
      says: { ...USUAL_OFFERS, own: 'gw2.example', other: 'aq.example', there: ['172.20.0.0/16'], here: HERE },
    };
    const { id: _other, ...more } = said;
    expect(pactTyped(pactTextOf(said, HERE), said.key)).toEqual({ ...more, purpose: null });
  });

  it('takes an empty address as one that calls, the usual times as nothing said, and what is no number as what nothing takes', () => {
    const text = { ...pactTextOf(null), at: ' ', behind: '172.20.0.0/16, 172.21.0.0/16\n' };
    expect(text.lastsIke).toBe(String(USUAL_LASTS.ike));
    expect(pactTyped(text, { secret: '' })).toMatchObject({ at: null, lasts: null, behind: PACT.behind });
    expect(pactTyped({ ...text, lastsEsp: 'x' }, { secret: '' }).lasts).toEqual({ ike: USUAL_LASTS.ike, esp: -1 });
  });

  it('begins, where its people say something else, with what the file for it says', () => {
    const text = pactTextOf(PACT, HERE);
    expect([text.saysOwn, text.saysOther]).toEqual([PACT.other, PACT.own]);
    expect([text.saysThere, text.saysHere]).toEqual(['172.20.0.0/16; 172.21.0.0/16', '10.10.10.0/24']);
  });
});

describe('how it fares', () => {
  const report = (more: Partial<PactReport>): PactReport => ({
    ...{ name: PACT.name, up: false, since: 0, step: 'proves' },
    ...more,
  });

  it('is told step by step', () => {
    expect(stepRows(report({})).map(({ is }) => is)).toEqual(['done', 'done', 'failed', 'open', 'open', 'open']);
    expect(stepRows(report({ up: true, step: 'stands' })).every(({ is }) => is === 'done')).toBe(true);
  });

  it('is told in a few words', () => {
    expect(faresWords(undefined)).toEqual({ text: 'nothing told yet', tone: 'soft' });
    expect(faresWords(report({ why: 'It has another key.' }))).toEqual({
      ...{ text: 'fails where it proves who it is: It has another key.', tone: 'bad' },
    });
    expect(faresWords(report({ up: true, step: 'stands', by: 'wan1', delay: 12.4 })).text).toBe(
      'stands by wan1, 12 ms',
    );
  });
});

it('what both would come to is told line by line, with what does not go together', () => {
  const rows = outlookRows(outlookOf(PACT, HERE), HERE, PACT.behind);
  expect(rows.map(({ good }) => good)).toEqual([true, true, true, true, true]);
  const says = {
    ...{
      ike: USUAL_OFFERS.ike,
      esp: { ...USUAL_OFFERS.esp, groups: ['16' as const] },
      own: PACT.other,
      other: 'bm.example',
    },
    ...{ there: ['172.20.0.0/16'], here: HERE },
  };
  const other = outlookRows(outlookOf({ ...PACT, says }, HERE), HERE, PACT.behind);
  expect(other.map(({ good }) => good)).toEqual([true, false, false, true, false]);
  expect(other[1]!.text).toBe('Ours names itself “aq.example”, and is expected to be “bm.example”.');
  expect(other[2]!.text).toContain('then, when keys are made anew: No group in common');
  expect(other[4]!.text).toBe('172.20.0.0/16; not all of 172.21.0.0/16');
});
