import { randomUUID } from 'node:crypto';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { DESIGNS, contrastOf, LEAST_CONTRAST, MOST_PICTURE, PICTURE_SIZE, readableOn } from '@iron-lattice/core/guests';
import { NEW_PORTAL, type Portal } from '@iron-lattice/core/intent';
import { TestPortal } from '../../testing/test-portal';

const portal: Portal = { ...NEW_PORTAL, id: randomUUID(), name: 'Passengers' };
let place: TestPortal;
beforeAll(async () => {
  place = await TestPortal.open(portal, 'PIC-1');
});
afterAll(() => place.end());

const brought = (bytes: Buffer | string, as = 'logo') => place.ada.upload(`/api/portal-pictures?as=${as}`, bytes);
const kept = async (id: string): Promise<Buffer> =>
  Buffer.from(await (await place.ada.fetch('GET', `/api/portal-pictures/${id}`)).arrayBuffer());
/** Pixels that nothing makes small. */
const noise = (width: number, height: number): Promise<Buffer> =>
  sharp({
    create: { width, height, channels: 3, background: '#888', noise: { type: 'gaussian', mean: 128, sigma: 90 } },
  })
    .png()
    .toBuffer();
const plain = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: '#8c2f1b' } });

test('a picture that is too large is made smaller, says so, and a page with it stays light', async () => {
  const logo = await brought(await noise(2400, 1200));
  expect(logo).toMatchObject({
    status: 201,
    json: { scaled: true, was: { kind: 'png', width: 2400, height: 1200 } },
  });
  const { picture, octets } = logo.json;
  expect(octets).toBeLessThanOrEqual(PICTURE_SIZE.logo.octets);
  expect(picture.width / picture.height).toBeCloseTo(2, 1);
  const bytes = await kept(picture.id);
  // Read as RFC 9649 §2.4 begins: nothing else but PNG, JPEG and SVG is read here any more.
  expect([bytes.toString('latin1', 0, 4), bytes.toString('latin1', 8, 12), bytes.length]).toEqual([
    'RIFF',
    'WEBP',
    octets,
  ]);
  const backdrop = await brought(await noise(3000, 2000), 'backdrop');
  await place.change({ logo: picture, backdrop: backdrop.json.picture });
  const guest = await place.guest('0e:00:00:00:00:31');
  for (const { id } of [picture, backdrop.json.picture]) expect(guest.text).toContain(`/picture/${id}`);
  expect(Buffer.byteLength(guest.text) + octets + backdrop.json.octets).toBeLessThan(60_000);
  const shown = await fetch(`${place.origin}/picture/${picture.id}`);
  expect([shown.status, shown.headers.get('content-type')]).toEqual([200, 'image/webp']);
  expect(shown.headers.get('cache-control')).toContain('immutable');
  expect(Buffer.from(await shown.arrayBuffer()).equals(bytes)).toBe(true);
  expect((await fetch(`${place.origin}/picture/${'0'.repeat(64)}`)).status).toBe(404);
});

test('one that is small enough stays as large as it is, and is one picture however often it is brought', async () => {
  const bytes = await plain(200, 80).png().toBuffer();
  const [first, second] = [await brought(bytes), await brought(bytes)];
  expect(first.json).toMatchObject({ scaled: false, picture: { width: 200, height: 80 } });
  expect(second.json.picture).toEqual(first.json.picture);
});

test('what a camera wrote into a picture is gone, and it stands as it is seen', async () => {
  const turned = await plain(300, 100).withMetadata({ orientation: 6 }).jpeg().toBuffer();
  const { json } = await brought(turned);
  expect(json.was).toMatchObject({ kind: 'jpeg', width: 100, height: 300 });
  const text = (await kept(json.picture.id)).toString('latin1');
  expect([text.includes('EXIF'), text.includes('Exif')]).toEqual([false, false]);
});

test('of an SVG nothing is kept but what is seen: no script runs, nothing else is read', async () => {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="200" height="80" onload="alert(1)">
    <script>alert(1)</script><image xlink:href="file:///etc/passwd" width="9" height="9"/><image href="http://127.0.0.1:1/x.png" width="9" height="9"/>
    <foreignObject><body xmlns="http://www.w3.org/1999/xhtml"><b>x</b></body></foreignObject><rect width="200" height="80" fill="#0c5560"/></svg>`;
  const { status, json } = await brought(svg);
  expect([status, json.was.kind]).toEqual([201, 'svg']);
  // Drawn from lines, it is as large as it may be.
  expect(json.picture).toMatchObject({ width: 640, height: 256 });
  const text = (await kept(json.picture.id)).toString('latin1');
  for (const part of ['script', 'alert', 'passwd', 'svg']) expect([part, text.includes(part)]).toEqual([part, false]);
});

test('what is no picture, too many pixels, damaged or another kind is refused in words; more than is taken too', async () => {
  const bomb =
    '<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;&b;&b;">]>' +
    '<svg xmlns="http://www.w3.org/2000/svg" width="99999" height="99999"><text>&c;</text></svg>';
  const png = await plain(400, 400).png().toBuffer();
  const webp = await plain(40, 40).webp().toBuffer();
  for (const each of [Buffer.from('gulls'), Buffer.from(bomb), png.subarray(0, png.length / 2), webp, Buffer.alloc(0)])
    expect([each.length, await brought(each)]).toEqual([
      each.length,
      { status: 422, json: expect.objectContaining({ type: 'about:lattice/picture.refused' }) },
    ]);
  const large = await brought(Buffer.alloc(MOST_PICTURE + 1));
  expect(large.status).toBe(413);
  const oli = await place.setting.as('oli');
  expect((await oli.upload('/api/portal-pictures?as=logo', png)).status).toBe(403);
});

test('each design can be read', () => {
  for (const { name, ground, accent } of DESIGNS) {
    expect([name, contrastOf(accent, ground) >= LEAST_CONTRAST]).toEqual([name, true]);
    expect(readableOn(accent, ground)).toBe(accent);
  }
});
