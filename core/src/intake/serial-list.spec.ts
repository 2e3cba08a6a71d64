import { describe, expect, test } from 'vitest';
import { SERIAL_SAMPLE, checkSerialList, readTags, type SerialListContext } from '.';
import { spreadsheetDamage } from '../base';

const CONTEXT: SerialListContext = {
  sites: [
    { id: 'B', name: 'Brinmouth', code: 'bm' },
    { id: 'D', name: 'Dunmere Depot', code: 'dd' },
  ],
  models: new Set(['GW-4', 'SW-24P', 'AP-6E']),
  serials: new Map([['7K4-0107-51', 'bm-ap-01 at Brinmouth']]),
  names: new Map([['bm-gw-01', '3A1-0114-52 at Brinmouth']]),
  macs: new Map([['02:5a:10:00:00:ac', 'bm-ap-01']]),
  siteId: null,
};
const check = (...rows: string[]) =>
  checkSerialList(
    rows.map((row) => row.split(',')),
    CONTEXT,
  );
const codesOf = (...rows: string[]) => check(...rows).rows.map((row) => row.flaws.map((flaw) => flaw.code));

describe('a serial list', () => {
  test('is taken as the sample file shows it', () => {
    const { rows, flaws } = checkSerialList(SERIAL_SAMPLE, CONTEXT);
    expect(flaws).toEqual([]);
    expect(rows.map((row) => row.good)).toEqual([
      { serial: '3A1-0149-57', model: 'GW-4', siteId: 'B', name: null, mac: null, tags: ['spare'], policy: 'window' },
      {
        serial: '5C2-0135-55',
        model: 'SW-24P',
        siteId: 'B',
        name: 'bm-sw-09',
        mac: '02:5a:10:00:05:89',
        tags: [],
        policy: 'leave',
      },
      {
        serial: '7K4-0156-58',
        model: 'AP-6E',
        siteId: 'B',
        name: null,
        mac: null,
        tags: ['deck', 'spare'],
        policy: 'at-once',
      },
    ]);
  });

  test('finds its columns by their headings in any order and case, and by position without', () => {
    const [headed] = check('Model,Notes,Serial Number,Location', 'gw-4,x,ab-1234,DD').rows;
    expect(headed).toMatchObject({ line: 2, good: { serial: 'AB-1234', model: 'GW-4', siteId: 'D' } });
    const [bare] = check('AB-1234,GW-4,bm').rows;
    expect(bare).toMatchObject({ line: 1, good: { serial: 'AB-1234', model: 'GW-4', siteId: 'B' } });
  });

  test('takes serial numbers alone when the person looks at a site', () => {
    const { rows } = checkSerialList([['AB-1234'], [''], ['AB-1235']], { ...CONTEXT, siteId: 'D' });
    expect(rows.map((row) => [row.line, row.good?.siteId, row.good?.model])).toEqual([
      [1, 'D', ''],
      [3, 'D', ''],
    ]);
    expect(codesOf('AB-1234')).toEqual([['row.site-none']]);
  });

  test.each([
    ['AB1,GW-4,bm', 'row.serial'],
    ['"><b>,GW-4,bm', 'row.serial'],
    [',GW-4,bm', 'row.serial-empty'],
    ['7k4-0107-51,AP-6E,bm', 'row.serial-taken'],
    ['1.2E+11,GW-4,bm', 'row.spreadsheet'],
    ['03-Mar,GW-4,bm', 'row.spreadsheet'],
    ['2026-03-01,GW-4,bm', 'row.spreadsheet'],
    ['AB-1234,AP-99,bm', 'row.model-unknown'],
    ['AB-1234,6-Apr,bm', 'row.spreadsheet'],
    ['AB-1234,GW-4,Atlantis', 'row.site-unknown'],
    ['AB-1234,GW-4,bm,Bad Name', 'row.name'],
    ['AB-1234,GW-4,bm,bm-gw-01', 'row.name-taken'],
    ['AB-1234,GW-4,bm,,02:zz', 'row.mac'],
    ['AB-1234,GW-4,bm,,2.05E+10', 'row.spreadsheet'],
    ['AB-1234,GW-4,bm,,01:00:5e:00:00:01', 'row.mac-group'],
    ['AB-1234,GW-4,bm,,025a.1000.00ac', 'row.mac-taken'],
    ['AB-1234,GW-4,bm,,,,sometimes', 'row.firmware'],
  ])('%s is refused: %s', (row, code) => {
    expect(codesOf(row)[0]).toContain(code);
  });

  test('says of each double where the first is', () => {
    const { rows } = check('AB-1234,,bm,x,025a10000001', 'ab-1234,,bm,X,02-5a-10-00-00-01');
    expect(rows[1]!.flaws.map((flaw) => flaw.message)).toEqual([
      'AB-1234 is already on line 1 of this list.',
      '“x” is already on line 1.',
      '02:5a:10:00:00:01 is already on line 1.',
    ]);
    expect(rows[0]!.good).not.toBeNull();
  });

  test('without the column that must be there, empty, or too long, is refused as a whole', () => {
    expect(check('model,site', 'GW-4,bm').flaws[0]).toMatchObject({ code: 'list.column-missing' });
    expect(check('').flaws[0]).toMatchObject({ code: 'list.empty' });
    expect(
      checkSerialList(
        Array.from({ length: 20_002 }, () => ['AB-1234']),
        CONTEXT,
      ).flaws[0]?.code,
    ).toBe('list.long');
  });
});

test('what people type is not taken for a spreadsheet’s ruin', () => {
  for (const text of ['3A1-0149-57', '12345678', 'E11', '1E-SW', '10.12.1.1', 'MAR-1234-AB'])
    expect(spreadsheetDamage(text)).toBeNull();
  for (const text of ['1.2E+11', '4E+9', '3-Mar', 'Mar-57', '01/02/2026', '2026-03-01', '#REF!'])
    expect(spreadsheetDamage(text)).not.toBeNull();
});

test('tags are parted, trimmed, in small letters and each once', () => {
  expect(readTags(' Deck; spare,DECK ;; ')).toEqual(['deck', 'spare']);
});
