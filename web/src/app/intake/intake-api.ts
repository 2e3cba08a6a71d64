import { HttpClient, type HttpResponse } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { DriftView } from '@iron-lattice/core/assess';
import type { Difference } from '@iron-lattice/core/document';
import type { HardwareSheet } from '@iron-lattice/core/hardware';
import type {
  ClaimPreview,
  ClaimResult,
  DeviceChange,
  DeviceView,
  DevicesChange,
  ExpectRequest,
  ExpectResult,
  HistoryEntry,
  ImportResult,
  Leftover,
  ManyResult,
  ReplacementLoss,
  SerialListPreview,
  SweepView,
} from '@iron-lattice/core/intake';
import type { Segment, StaticAddress } from '@iron-lattice/core/intent';
import type { CommandName } from '@iron-lattice/core/line';
import { firstValueFrom, type Observable } from 'rxjs';

/** A calling box that could take a device's place. */
export interface Candidate {
  readonly serial: string;
  readonly model: string;
  readonly losses: readonly ReplacementLoss[];
}

/** What intake asks the controller. */
@Injectable({ providedIn: 'root' })
export class IntakeApi {
  private readonly http = inject(HttpClient);

  device = (id: string): Promise<DeviceView> => this.get(`/api/devices/${id}`);
  history = (id: string): Promise<HistoryEntry[]> => this.get(`/api/devices/${id}/history`);
  proposals = (id: string): Promise<{ name: string; address: StaticAddress | null; segment: Segment }> =>
    this.get(`/api/devices/${id}/proposals`);
  difference = (id: string): Promise<{ difference: Difference | null; known: boolean }> =>
    this.get(`/api/devices/${id}/difference`);
  drift = (id: string): Promise<{ drift: DriftView | null }> => this.get(`/api/devices/${id}/drift`);
  leftovers = (id: string): Promise<Leftover[]> => this.get(`/api/devices/${id}/leftovers`);
  candidates = (id: string): Promise<Candidate[]> => this.get(`/api/devices/${id}/replacements`);
  sweeps = (siteId: string | null): Promise<SweepView[]> =>
    this.get(siteId ? `/api/sweeps?siteId=${siteId}` : '/api/sweeps');
  sweep = (id: string): Promise<SweepView> => this.get(`/api/sweeps/${id}`);

  preview = (siteId: string, serials: readonly string[]): Promise<ClaimPreview> =>
    this.post(`/api/sites/${siteId}/claim-preview`, { serials });
  claim = (siteId: string, serials: readonly string[]): Promise<ClaimResult> =>
    this.post(`/api/sites/${siteId}/claims`, { serials });
  expect = (siteId: string, wish: ExpectRequest): Promise<ExpectResult> =>
    this.post(`/api/sites/${siteId}/expected`, wish);
  unexpect = (deviceIds: readonly string[]): Promise<void> => this.post('/api/expected/removals', { deviceIds });
  command = (id: string, name: CommandName, target: string): Promise<{ ok: boolean; text: string }> =>
    this.post(`/api/devices/${id}/commands`, { name, target });
  retry = (id: string): Promise<void> => this.post(`/api/devices/${id}/retry`, {});
  change = (id: string, change: DeviceChange): Promise<DeviceView> =>
    firstValueFrom(this.http.patch<DeviceView>(`/api/devices/${id}`, change));
  changeMany = (change: DevicesChange): Promise<ManyResult> =>
    firstValueFrom(this.http.patch<ManyResult>('/api/devices', change));
  restartMany = (deviceIds: readonly string[]): Promise<ManyResult> => this.post('/api/device-restarts', { deviceIds });
  replace = (id: string, serial: string, despiteLosses: boolean): Promise<DeviceView> =>
    this.post(`/api/devices/${id}/replace`, { serial, despiteLosses });
  move = (id: string, siteId: string): Promise<DeviceView> => this.post(`/api/devices/${id}/move`, { siteId });
  release = (id: string): Promise<void> => this.post(`/api/devices/${id}/release`, {});
  retryHitch = (id: string): Promise<void> => this.post(`/api/hitches/${id}/retry`, {});
  dismissHitch = (id: string): Promise<void> => firstValueFrom(this.http.delete<void>(`/api/hitches/${id}`));
  supplySheet = (sheet: object): Promise<HardwareSheet> => this.post('/api/hardware-sheets', sheet);
  startSweep = (prefix: string, deviceId: string | null, siteId: string | null): Promise<SweepView> =>
    this.post('/api/sweeps', { prefix, deviceId, siteId });
  stopSweep = (id: string): Promise<SweepView> => this.post(`/api/sweeps/${id}/stop`, {});
  invite = (id: string, address: string): Promise<void> => this.post(`/api/sweeps/${id}/invitations`, { address });

  /** Captures for some seconds. @returns the file and its name. */
  async capture(id: string, port: string, seconds: number): Promise<{ name: string; file: Blob }> {
    const response: HttpResponse<Blob> = await firstValueFrom(
      this.http.post(`/api/devices/${id}/captures`, { port, seconds }, { responseType: 'blob', observe: 'response' }),
    );
    const name = /filename="?([^";]+)/.exec(response.headers.get('content-disposition') ?? '')?.[1];
    return { name: name ?? 'capture.pcapng', file: response.body! };
  }

  previewList = (file: Blob, siteId: string | null): Promise<SerialListPreview> =>
    firstValueFrom(
      this.upload<SerialListPreview>(siteId ? `/api/serial-lists?siteId=${siteId}` : '/api/serial-lists', file),
    );
  importList = (token: string, leaveOutBad: boolean): Promise<ImportResult> =>
    this.post('/api/serial-lists/import', { token, leaveOutBad });

  private upload<T>(path: string, file: Blob): Observable<T> {
    return this.http.post<T>(path, file, { headers: { 'content-type': 'application/octet-stream' } });
  }
  private get = <T>(path: string): Promise<T> => firstValueFrom(this.http.get<T>(path));
  private post = <T>(path: string, body: object): Promise<T> => firstValueFrom(this.http.post<T>(path, body));
}
