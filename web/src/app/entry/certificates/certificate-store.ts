import { HttpClient } from '@angular/common/http';
import { computed, inject, Injectable } from '@angular/core';
import {
  CERTIFICATE_DAYS,
  ENDS_SOON_DAYS,
  type IssuedCertificate,
  type MadeCertificate,
  type OwnCertificateView,
} from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../../shell/live-fetch';

const DAY_MS = 86_400_000;
type Issued = IssuedCertificate & { readonly userId: string | null };

/** Certificates that the estate’s authority made, and what the controller shows itself. Provided by whoever shows them. */
@Injectable()
export class CertificateStore {
  private readonly http = inject(HttpClient);
  private readonly live = liveFetch({
    of: () => 'all',
    fetch: () => firstValueFrom(this.http.get<Issued[]>('/api/certificates')),
    when: (event) => event.type === 'users',
    every: 1000,
  });
  private readonly shown = liveFetch({
    of: () => 'own',
    fetch: () => firstValueFrom(this.http.get<OwnCertificateView>('/api/entry-certificate')),
    when: () => false,
  });
  readonly own = this.shown.value;
  readonly problem = computed(() => this.live.problem() ?? this.shown.problem());
  readonly usualDays = CERTIFICATE_DAYS.usual;

  /** Those that hold, of a user or of servers. */
  holding(userId: string | null): readonly Issued[] {
    const now = Date.now();
    return (this.live.value() ?? []).filter(
      (each) =>
        each.revokedAt === null &&
        Date.parse(each.until) > now &&
        (userId === null ? each.kind === 'server' : each.userId === userId),
    );
  }

  endsSoon = ({ until }: Pick<IssuedCertificate, 'until'>): boolean =>
    Date.parse(until) - Date.now() < ENDS_SOON_DAYS * DAY_MS;

  forUser = (userId: string, label: string): Promise<MadeCertificate> =>
    this.made(`/api/users/${userId}/certificates`, { label, days: CERTIFICATE_DAYS.usual });
  forServer = (name: string): Promise<MadeCertificate> =>
    this.made('/api/server-certificates', { name, days: CERTIFICATE_DAYS.usual });

  async revoke(serial: string): Promise<void> {
    await firstValueFrom(this.http.post(`/api/certificates/${serial}/revoke`, {}));
    await this.live.again();
  }

  private async made(url: string, body: object): Promise<MadeCertificate> {
    const made = await firstValueFrom(this.http.post<MadeCertificate>(url, body));
    await this.live.again();
    return made;
  }
}
