import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { ClaimPreview, ClaimResult } from '@iron-lattice/core/intake';
import { firstValueFrom } from 'rxjs';

/** Requests of the Intake stage. */
@Injectable({ providedIn: 'root' })
export class IntakeApi {
  private readonly http = inject(HttpClient);

  preview(siteId: string, serials: readonly string[]): Promise<ClaimPreview> {
    return firstValueFrom(this.http.post<ClaimPreview>(`/api/sites/${siteId}/claim-preview`, { serials }));
  }

  claim(siteId: string, serials: readonly string[]): Promise<ClaimResult> {
    return firstValueFrom(this.http.post<ClaimResult>(`/api/sites/${siteId}/claims`, { serials }));
  }

  command(deviceId: string, name: 'locate' | 'ping', target: string): Promise<{ ok: boolean; text: string }> {
    return firstValueFrom(
      this.http.post<{ ok: boolean; text: string }>(`/api/devices/${deviceId}/commands`, { name, target }),
    );
  }

  retry(deviceId: string): Promise<unknown> {
    return firstValueFrom(this.http.post(`/api/devices/${deviceId}/retry`, {}));
  }
}
