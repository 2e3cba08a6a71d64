/// <reference lib="webworker" />
import jsQR from 'jsqr';

/** Finds a QR code in a picture; off the page's thread, because it takes tens of milliseconds. */
addEventListener('message', ({ data }: MessageEvent<{ pixels: ArrayBuffer; width: number; height: number }>) => {
  const { pixels, width, height } = data;
  const code = jsQR(new Uint8ClampedArray(pixels), width, height, { inversionAttempts: 'dontInvert' });
  postMessage(code?.data ?? null);
});
