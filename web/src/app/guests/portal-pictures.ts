import { HttpClient } from '@angular/common/http';
import { Injectable, inject, signal } from '@angular/core';
import type { PictureMade, PictureUse } from '@iron-lattice/core/guests';
import { MOST_PICTURE } from '@iron-lattice/core/guests';
import { firstValueFrom } from 'rxjs';

/** Pixels of a side to which a browser makes smaller what is too large to be sent. */
const SENT_SIDE = 2400;

/** Pictures of portals: brought, and as they are drawn in the preview. */
@Injectable({ providedIn: 'root' })
export class PortalPictures {
  private readonly http = inject(HttpClient);
  /** Pictures as `data:` addresses, by id; null: it is being read, or is not there. */
  private readonly read = signal<ReadonlyMap<string, string | null>>(new Map());

  /** Brings a picture. What is larger than is sent is made smaller here first. @throws Problem */
  async bring(use: PictureUse, file: File): Promise<PictureMade> {
    const sent = file.size > MOST_PICTURE ? await smaller(file) : file;
    const headers = { 'content-type': 'application/octet-stream' };
    const bytes = await sent.arrayBuffer();
    return firstValueFrom(this.http.post<PictureMade>('/api/portal-pictures', bytes, { params: { as: use }, headers }));
  }

  /** Where a picture is, for a frame that may ask nobody; empty while it is read. */
  at(id: string): string {
    if (!this.read().has(id)) queueMicrotask(() => void this.fetch(id));
    return this.read().get(id) ?? '';
  }

  private async fetch(id: string): Promise<void> {
    if (this.read().has(id)) return;
    this.keep(id, null);
    try {
      const blob = await firstValueFrom(this.http.get(`/api/portal-pictures/${id}`, { responseType: 'blob' }));
      this.keep(id, await dataOf(blob));
    } catch {
      this.read.update((known) => new Map([...known].filter(([each]) => each !== id))); // it is asked for again
    }
  }

  private keep(id: string, data: string | null): void {
    this.read.update((known) => new Map([...known, [id, data]]));
  }
}

const dataOf = (blob: Blob): Promise<string> =>
  new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(reader.result as string);
    reader.onerror = () => reject(reader.error ?? new Error('unread'));
    reader.readAsDataURL(blob);
  });

/** A picture with fewer pixels, as PNG. */
async function smaller(file: File): Promise<Blob> {
  const drawn = await createImageBitmap(file, { resizeWidth: SENT_SIDE, resizeQuality: 'high' });
  const canvas = new OffscreenCanvas(drawn.width, drawn.height);
  canvas.getContext('2d')!.drawImage(drawn, 0, 0);
  return canvas.convertToBlob({ type: 'image/png' });
}
