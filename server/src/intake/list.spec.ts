import { zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import writeXlsxFile from 'write-excel-file/node';
import { TestController, type TestCaller } from '../testing/test-controller';
import { TestDevice } from '../testing/test-device';

let setting: TestController;
let ada: TestCaller;
let siteId = '';
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  siteId = (await ada.get('/api/estate')).sites[0].id;
});
afterAll(() => setting.end());

const look = async (file: string | Uint8Array) => (await ada.upload(`/api/serial-lists?siteId=${siteId}`, file)).json;
const take = (token: string, leaveOutBad: boolean) =>
  ada.ask('POST', '/api/serial-lists/import', { token, leaveOutBad });
const serials = async (): Promise<string[]> =>
  (await ada.get('/api/devices')).rows
    .filter((row: { state: string }) => row.state === 'expected')
    .map((row: { serial: string }) => row.serial);

test('one bad row means that none is taken, unless the person leaves bad ones out', async () => {
  const preview = await look('serial,model\nAA-0001,AP-6\nAA-0002,AP-99\n');
  expect(preview).toMatchObject({ good: 1, bad: 1 });
  const refused = await take(preview.token, false);
  expect([refused.status, refused.json.title]).toEqual([
    422,
    'Nothing was imported: 1 of 2 rows are not good. There is no hardware sheet for model “AP-99”. Supply one first.',
  ]);
  expect(await serials()).toEqual([]);
  expect((await take(preview.token, true)).json).toEqual({ imported: 1 });
  expect(await serials()).toEqual(['AA-0001']);
  expect((await take(preview.token, true)).json.title).toBe('This list was looked at too long ago. Bring it again.');
});

test('what was looked at is checked again when it is taken', async () => {
  const [first, second] = [await look('AA-0010\nAA-0011'), await look('AA-0011\nAA-0012')];
  expect((await take(first.token, false)).status).toBe(201);
  const late = await take(second.token, false);
  expect(late.json.title).toContain('AA-0011 is already known: expected at Pier.');
  expect(await serials()).toEqual(['AA-0001', 'AA-0010', 'AA-0011']);
});

test('a workbook is read by what it holds: text stays text, numbers and dates show as what they became', async () => {
  const cell = (value: string | number | Date) =>
    value instanceof Date ? { value, type: Date, format: 'yyyy-mm-dd' } : { value };
  const rows = [
    ['Serial', 'Model'],
    ['BB-0001', 'AP-6'],
    [120_000_000_000, 'AP-6'],
    [new Date('2026-03-01T00:00:00Z'), 'AP-6'],
  ];
  const book = await writeXlsxFile(rows.map((row) => row.map(cell)) as never).toBuffer();
  const preview = await look(book);
  expect(
    preview.rows.map((row: { values: { serial: string }; good: unknown }) => [row.values.serial, row.good !== null]),
  ).toEqual([
    ['BB-0001', true],
    ['1.20E+11', false],
    ['2026-03-01', false],
  ]);
});

test('delimiters are found; a byte order mark does not matter', async () => {
  expect((await look('\uFEFFserial;model\r\nCC-0001;AP-6\r\n')).rows[0].good).toMatchObject({
    serial: 'CC-0001',
    model: 'AP-6',
  });
  expect((await look('serial\tmodel\nCC-0002\tAP-6')).rows[0].good).toMatchObject({ serial: 'CC-0002' });
});

test.each([
  ['neither text nor a workbook', Uint8Array.of(0xff, 0xd8, 0xff, 0xe0), 422],
  ['a broken workbook', Uint8Array.of(0x50, 0x4b, 3, 4, 1, 2, 3), 422],
  ['too large', new Uint8Array(8_000_001).fill(65), 413],
])('a file that is %s is refused with the reason', async (_what, file, status) => {
  const answer = await ada.upload('/api/serial-lists', file);
  expect([answer.status, answer.json.title.length > 20]).toEqual([status, true]);
});

test('an announced device that calls already is claimed when the list is taken', async () => {
  const box = new TestDevice(setting.controller.url, 'DD-0001', 'AP-6', '02:00:00:00:07:01');
  await box.call();
  const { token } = await look('serial,model,name\nDD-0001,AP-6,pr-mast');
  await take(token, false);
  expect((await box.next('document')).document.device.name).toBe('pr-mast');
  box.hangUp();
});

test('an announcement is taken back: one never heard is forgotten', async () => {
  const { rows } = await ada.get('/api/devices');
  const ids = rows.filter((row: { state: string }) => row.state === 'expected').map((row: { id: string }) => row.id);
  expect((await ada.ask('POST', '/api/expected/removals', { deviceIds: ids })).status).toBe(204);
  expect(await serials()).toEqual([]);
});

test('sites come from a list, all or none', async () => {
  const preview = (
    await ada.upload(
      '/api/site-lists',
      'name,country,time zone,address,tags\nMole,Ireland,UTC,1 Mole,pier\nPier,IE,UTC,,\n',
    )
  ).json;
  expect(preview).toMatchObject({ good: 1, bad: 1 });
  const body = { token: preview.token, leaveOutBad: true };
  expect((await ada.ask('POST', '/api/site-lists/import', body)).json).toEqual({ imported: 1 });
  const { sites } = await ada.get('/api/estate');
  expect(sites.find((site: { name: string }) => site.name === 'Mole')).toMatchObject({
    address: '1 Mole',
    tags: ['pier'],
  });
});

test('the sample files are what the readers read', async () => {
  const sample = await (await ada.fetch('GET', '/api/serial-lists/sample')).text();
  expect(sample.split('\r\n')[0]).toBe('serial,model,site,name,mac,tags,firmware');
  expect((await look(sample.replaceAll('Brinmouth', 'Pier').replaceAll('bm', 'pr'))).bad).toBe(0);
});

test('rows come in parts, and then only what changed', async () => {
  await take((await look('EE-0001\nEE-0002\nEE-0003')).token, false);
  const part = await ada.get('/api/devices?limit=2');
  expect([part.rows.length, part.total > 3]).toEqual([2, true]);
  const all = await ada.get('/api/devices');
  const box = new TestDevice(setting.controller.url, 'FF-0001', 'AP-6', '02:00:00:00:07:02');
  await box.call();
  const changed = await ada.until(`/api/devices?since=${all.mark}`, (each: { rows: { serial: string }[] }) =>
    each.rows.some((row) => row.serial === 'FF-0001'),
  );
  box.hangUp();
  const { id } = changed.rows.find((row) => row.serial === 'FF-0001') as unknown as { id: string };
  await ada.until(`/api/devices?since=${all.mark}`, (each: { gone: string[] }) => each.gone.includes(id));
});

describe('a list that is a bomb', () => {
  const sheet = (xml: string) => {
    const file = (text: string) => new TextEncoder().encode(text);
    const main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
    const rel = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
    const pack = 'http://schemas.openxmlformats.org/package/2006';
    return zipSync({
      '[Content_Types].xml': file(
        `<Types xmlns="${pack}/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/></Types>`,
      ),
      '_rels/.rels': file(
        `<Relationships xmlns="${pack}/relationships"><Relationship Id="r1" Type="${rel}/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
      ),
      'xl/workbook.xml': file(
        `<workbook xmlns="${main}" xmlns:r="${rel}"><sheets><sheet name="A" sheetId="1" r:id="r1"/></sheets></workbook>`,
      ),
      'xl/_rels/workbook.xml.rels': file(
        `<Relationships xmlns="${pack}/relationships"><Relationship Id="r1" Type="${rel}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
      ),
      'xl/worksheets/sheet1.xml': file(`<worksheet xmlns="${main}">${xml}</worksheet>`),
    });
  };
  const cell = (at: string) =>
    `<sheetData><row r="${/\d+/.exec(at)![0]}"><c r="${at}" t="inlineStr"><is><t>AA-0001</t></is></c></row></sheetData>`;
  test.each([
    ['one cell in the last corner', () => sheet(cell('XFD1048576'))],
    ['a vast declared dimension', () => sheet(`<dimension ref="A1:XFD1048576"/>${cell('A1')}`)],
    ['many empty rows', () => sheet(cell('A900000'))],
    ['what is a gigabyte unpacked', () => sheet(`<sheetData>${' '.repeat(70_000_000)}</sheetData>`)],
    ['a row of commas', () => ','.repeat(7_000_000)],
    ['lines without end', () => 'a\n'.repeat(3_000_000)],
  ])('%s is refused, and the controller lives', async (_name, file) => {
    const { status, json } = await ada.upload('/api/serial-lists', file());
    expect([status, json.title]).toEqual([422, expect.stringMatching(/too large|Part it/)]);
    expect((await ada.ask('GET', '/healthz')).status).toBe(200);
  });

  test('an honest workbook of the same making is read', async () => {
    const { json } = await ada.upload(`/api/serial-lists?siteId=${siteId}`, sheet(cell('A1')));
    expect(json.rows.map((row: { values: { serial: string } }) => row.values.serial)).toEqual(['AA-0001']);
  });

  test('a cell with what cannot be shown is named', async () => {
    const { json } = await ada.upload('/api/serial-lists', 'AA-0001\nAA-\u00072\n');
    expect(json.title).toBe('Row 2, column 1 holds a character that cannot be shown (U+0007); type it anew.');
  });
});
