import { Component, effect, input, signal } from '@angular/core';

/** The dark modules of a QR code (ISO/IEC 18004, correction M) as a path, and how many modules it is wide. */
export async function qrPath(text: string): Promise<{ readonly path: string; readonly size: number }> {
  const { default: code } = await import('qrcode');
  const { data, size } = code.create(text, { errorCorrectionLevel: 'M' }).modules;
  const dark = Array.from(data.entries()).filter(([, value]) => value !== 0);
  return { size, path: dark.map(([at]) => `M${at % size} ${Math.floor(at / size)}h1v1h-1z`).join('') };
}

/** A QR code with its quiet zone, black on white in both themes: phones read nothing else as well. */
@Component({
  selector: 'il-qr',
  template: `
    @if (drawn(); as one) {
      <svg
        role="img"
        [attr.aria-label]="label()"
        [attr.viewBox]="'-4 -4 ' + (one.size + 8) + ' ' + (one.size + 8)"
        shape-rendering="crispEdges"
      >
        <path [attr.d]="one.path" />
      </svg>
    }
  `,
  styles: `
    :host {
      display: block;
      aspect-ratio: 1;
    }
    svg {
      display: block;
      width: 100%;
      background: #fff;
      fill: #000;
    }
  `,
})
export class Qr {
  readonly text = input.required<string>();
  /** What it is, for whoever does not see it. */
  readonly label = input.required<string>();
  protected readonly drawn = signal<{ readonly path: string; readonly size: number } | null>(null);

  constructor() {
    effect(() => {
      const text = this.text();
      void qrPath(text).then((drawn) => {
        if (text === this.text()) this.drawn.set(drawn);
      });
    });
  }
}
