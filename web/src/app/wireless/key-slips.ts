import type { RingKeyFields } from '@iron-lattice/core/wireless';

/** What one slip says. */
export interface Slip extends Pick<RingKeyFields, 'name' | 'until' | 'most'> {
  readonly ssid: string;
  readonly key: string;
  /** What the QR code holds. */
  readonly join: string;
}

const SVG = 'http://www.w3.org/2000/svg';

/** Prints slips, several on a page, each with the code that phones join by. What people typed is text in them, never markup. */
export async function printSlips(slips: readonly Slip[]): Promise<void> {
  const { default: code } = await import('qrcode');
  const sheet = document.createElement('div');
  sheet.className = 'print-sheet slips';
  for (const slip of slips) {
    const one = document.createElement('section');
    const { data, size } = code.create(slip.join, { errorCorrectionLevel: 'M' }).modules;
    one.append(drawing(data, size), said(slip));
    sheet.append(one);
  }
  document.body.append(sheet);
  try {
    window.print();
  } finally {
    sheet.remove();
  }
}

function said({ name, ssid, key, until, most }: Slip): HTMLElement {
  const lines = document.createElement('div');
  const line = (tag: string, text: string): void => {
    const each = document.createElement(tag);
    each.textContent = text;
    lines.append(each);
  };
  line('h2', name);
  line('p', `Wi-Fi: ${ssid}`);
  line('code', key);
  const limits = [until ? `until ${until}` : '', most ? `${most} ${most === 1 ? 'device' : 'devices'}` : ''];
  line('p', limits.filter((each) => each !== '').join(', '));
  return lines;
}

/** The dark modules of a code (ISO/IEC 18004) with its quiet zone. */
function drawing(data: Uint8Array, size: number): SVGElement {
  const svg = document.createElementNS(SVG, 'svg');
  svg.setAttribute('viewBox', `-4 -4 ${size + 8} ${size + 8}`);
  const path = document.createElementNS(SVG, 'path');
  const dark = Array.from(data.entries()).filter(([, value]) => value !== 0);
  path.setAttribute('d', dark.map(([at]) => `M${at % size} ${Math.floor(at / size)}h1v1h-1z`).join(''));
  svg.append(path);
  return svg;
}
