import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import jsQR from 'jsqr';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { MOST_SLIPS, type Slip } from '@iron-lattice/core/base';
import { TestController, type TestCaller } from '../../testing/test-controller';

const slip: Slip = {
  ...{ heading: 'Cabin 12', before: ['Wi-Fi: Skerrow Visitors'], code: 'ABCD-2345' },
  after: ['2 d from its first use, 4 devices', ''],
  qr: [
    { text: 'WIFI:T:nopass;S:Skerrow Visitors;;', words: '1. Join' },
    { text: 'https://guests.skerrow.example/with/ABCD2345', words: '2. Sign in' },
  ],
};
let setting: TestController;
let ada: TestCaller;
let folder: string;
beforeAll(async () => {
  setting = await TestController.start();
  ada = await setting.as('ada');
  folder = mkdtempSync(join(tmpdir(), 'slips-'));
});
afterAll(async () => {
  rmSync(folder, { recursive: true });
  await setting.end();
});

/** A file of slips, as readers that we did not write see it (poppler). */
async function sheetOf(slips: readonly Slip[]): Promise<string> {
  const response = await fetch(`${setting.controller.url}/api/slips`, {
    ...{ method: 'POST', body: JSON.stringify({ slips }) },
    headers: { cookie: ada.cookie, 'content-type': 'application/json' },
  });
  expect([response.status, response.headers.get('content-type')]).toEqual([200, 'application/pdf']);
  const file = join(folder, 'slips.pdf');
  writeFileSync(file, Buffer.from(await response.arrayBuffer()));
  return file;
}
const by = (program: string, ...args: string[]): string => execFileSync(program, args, { encoding: 'utf8' });

/** What a camera reads in a part of a page. */
function seen(file: string, x: number, y: number, side: number): string | undefined {
  const at = join(folder, 'part');
  by(
    'pdftoppm',
    '-r',
    '144',
    '-gray',
    '-singlefile',
    '-x',
    `${x}`,
    '-y',
    `${y}`,
    '-W',
    `${side}`,
    '-H',
    `${side}`,
    file,
    at,
  );
  const pixels = readFileSync(`${at}.pgm`).subarray(-side * side);
  const rgba = Uint8ClampedArray.from([...pixels].flatMap((grey) => [grey, grey, grey, 255]));
  return jsQR(rgba, side, side)?.data;
}

test('a code stands on its slip as it is typed, whatever signs stand beside each other', async () => {
  const codes = ['gate--7', 'fd00::1 != fd00::2', '../../key', '<=> ===> www.*ptr'];
  const file = await sheetOf(codes.map((code) => ({ ...slip, code, qr: [] })));
  const text = by('pdftotext', '-layout', file, '-');
  for (const code of codes) expect(text).toContain(code);
});

test('slips are pages to be cut: what is said stands on them as text, with letters that ship along, and cameras read the rest', async () => {
  const odd = { ...slip, heading: 'Kajuta Łódź <b>ß</b> — «Ærø»', code: 'ABCD-EFGH-JKLM-NPQR', qr: [] };
  const file = await sheetOf([slip, odd, ...Array.from({ length: 7 }, () => slip)]);
  const text = by('pdftotext', '-layout', file, '-');
  for (const part of [
    'Cabin 12',
    'Wi-Fi: Skerrow Visitors',
    'ABCD-2345',
    '2 d from its first use, 4 devices',
    '2. Sign in',
  ])
    expect(text).toContain(part);
  expect(text).toContain('Kajuta Łódź <b>ß</b>');
  expect(text).toContain('ABCD-EFGH-JKLM-NPQR');
  expect(text.split('\f')).toHaveLength(3); // two pages, each ended
  expect(by('pdfinfo', file)).toMatch(/Page size:\s+595\.28 x 841\.89 pts \(A4\)/);
  const fonts = by('pdffonts', file).trim().split('\n').slice(2);
  expect(fonts.length).toBeGreaterThan(2);
  for (const font of fonts) expect(font).toMatch(/Barlow|JetBrains/);
  for (const font of fonts) expect(font).toMatch(/Identity-H\s+yes yes yes/); // embedded, in part, and readable as text
  expect(seen(file, 24, 24, 172)).toBe(slip.qr[0]!.text);
  expect(seen(file, 24, 210, 172)).toBe(slip.qr[1]!.text);
});

test('names in Greek, Cyrillic and Arabic letters stand on slips as they are written', async () => {
  const [greek, cyrillic, arabic] = ['Καμπίνα 12', 'Каюта 12', 'مقصورة الميناء'];
  const file = await sheetOf([greek, cyrillic, arabic].map((heading) => ({ ...slip, heading, qr: [] })));
  const text = by('pdftotext', '-layout', file, '-');
  expect(text).toContain(greek);
  expect(text).toContain(cyrillic);
  // Readers put what is written from the right in its order again, and may join its letters otherwise.
  for (const word of arabic.split(' ')) expect(text.normalize('NFKC')).toContain(word);
  expect(by('pdffonts', file)).toMatch(/NotoSansArabic[\s\S]*yes yes yes/);
});

test('what is longer than a slip is cut, and more slips than a sheet has are refused', async () => {
  const long = { ...slip, heading: 'x'.repeat(200), after: ['word '.repeat(40).trim(), ''] };
  expect(by('pdftotext', await sheetOf([long]), '-')).toContain('…');
  const many = await ada.ask('POST', '/api/slips', { slips: Array.from({ length: MOST_SLIPS + 1 }, () => slip) });
  expect(many.status).toBe(400);
  const nobody = await setting.anyone().ask('POST', '/api/slips', { slips: [slip] });
  expect(nobody.status).toBe(401);
});
