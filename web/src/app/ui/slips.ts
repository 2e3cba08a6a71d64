import type { HttpClient } from '@angular/common/http';
import { MOST_SLIPS, type Slip } from '@iron-lattice/core/base';
import { firstValueFrom } from 'rxjs';
import { saveFile } from './export-rows';
import { qrPath } from './qr';

export type { Slip };

const SVG = 'http://www.w3.org/2000/svg';

/** Slips as a file to be printed elsewhere: drawn by the controller, since browsers write none. @param path where whoever asks may have them drawn. */
export async function saveSlips(
  http: HttpClient,
  slips: readonly Slip[],
  name: string,
  path: '/api/slips' | '/api/reception/slips' = '/api/slips',
): Promise<void> {
  for (let at = 0; at < slips.length; at += MOST_SLIPS) {
    const some = slips.slice(at, at + MOST_SLIPS);
    const file = await firstValueFrom(http.post(path, { slips: some }, { responseType: 'blob' }));
    saveFile(slips.length > MOST_SLIPS ? `${name}-${at / MOST_SLIPS + 1}.pdf` : `${name}.pdf`, file);
  }
}

/** Prints slips, several on a page, each with codes for phones. What people typed is text in them, never markup. */
export async function printSlips(slips: readonly Slip[]): Promise<void> {
  const sheet = document.createElement('div');
  sheet.className = 'print-sheet slips';
  for (const slip of slips) {
    const one = document.createElement('section');
    for (const { text, words } of slip.qr) one.append(await drawing(text, words));
    one.append(said(slip));
    sheet.append(one);
  }
  document.body.append(sheet);
  try {
    window.print();
  } finally {
    sheet.remove();
  }
}

function said({ heading, before, code, after }: Slip): HTMLElement {
  const lines = document.createElement('div');
  const line = (tag: string, text: string): void => {
    if (text === '') return;
    const each = document.createElement(tag);
    each.textContent = text;
    lines.append(each);
  };
  line('h2', heading);
  for (const text of before) line('p', text);
  line('code', code);
  for (const text of after) line('p', text);
  return lines;
}

async function drawing(text: string, words: string): Promise<HTMLElement> {
  const figure = document.createElement('figure');
  const { path: drawn, size } = await qrPath(text);
  const svg = document.createElementNS(SVG, 'svg');
  svg.setAttribute('viewBox', `-4 -4 ${size + 8} ${size + 8}`);
  const path = document.createElementNS(SVG, 'path');
  path.setAttribute('d', drawn);
  svg.append(path);
  figure.append(svg);
  if (words !== '') {
    const caption = document.createElement('figcaption');
    caption.textContent = words;
    figure.append(caption);
  }
  return figure;
}
