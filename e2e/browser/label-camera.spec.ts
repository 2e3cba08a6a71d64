import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import QRCode from 'qrcode';
import { expect, test } from './fixtures';

const SIZE = { width: 640, height: 480 } as const;
const LABEL = 'lattice:device?serial=7K4-0156-58&model=AP-6E';

/** A film of one picture, a QR code on white, as raw video (YUV4MPEG2, 4:2:0). */
function filmOf(text: string): string {
  const { modules } = QRCode.create(text, { errorCorrectionLevel: 'M' });
  const { width, height } = SIZE;
  const cell = Math.floor((height * 0.8) / modules.size);
  const [left, top] = [(width - cell * modules.size) >> 1, (height - cell * modules.size) >> 1];
  const luma = Buffer.alloc(width * height, 235);
  for (let y = 0; y < modules.size * cell; y++)
    for (let x = 0; x < modules.size * cell; x++)
      if (modules.get(Math.floor(y / cell), Math.floor(x / cell))) luma[(top + y) * width + left + x] = 16;
  const frame = Buffer.concat([Buffer.from('FRAME\n'), luma, Buffer.alloc((width * height) / 2, 128)]);
  const head = Buffer.from(`YUV4MPEG2 W${width} H${height} F10:1 Ip A1:1 C420jpeg\n`);
  const path = join(mkdtempSync(join(tmpdir(), 'lattice-film-')), 'label.y4m');
  writeFileSync(path, Buffer.concat([head, ...Array.from({ length: 10 }, () => frame)]));
  return path;
}

test.use({
  viewport: { width: 390, height: 844 },
  permissions: ['camera'],
  launchOptions: {
    executablePath: '/usr/bin/chromium',
    args: [
      '--disable-dev-shm-usage',
      '--use-fake-device-for-media-stream',
      '--use-fake-ui-for-media-stream',
      `--use-file-for-fake-video-capture=${filmOf(LABEL)}`,
    ],
  },
});

test('a label held before the camera is read, and its box is claimed', async ({ desk }) => {
  await desk.signIn();
  await desk.openSite('Calder Skerry');
  await desk.press('Find devices');
  const sheet = desk.sheet('Find devices');
  await sheet.getByRole('button', { name: 'Label', exact: true }).click();
  await sheet.getByRole('button', { name: 'Scan a label' }).click();
  await expect(sheet.getByRole('status')).toHaveText(/7K4-0156-58\s*is claimed as cs-ap-03/, { timeout: 60_000 });
  await expect(sheet.getByRole('button', { name: 'Scan a label' })).toBeVisible();
});
