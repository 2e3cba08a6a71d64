import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { otherSideOf, writeClients, writeUsers } from '@iron-lattice/core/entry';
import { resolve, type RadiusServer } from '@iron-lattice/core/intent';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';

/** What has to be entered at a RADIUS server for the site in front. */
@Component({
  selector: 'il-server-other-side',
  imports: [MatButtonModule, Cell],
  template: `
    @if (side(); as side) {
      <il-cell label="What the other side enters" size="full" [hint]="side.why">
        <p class="line">
          Asked from
          @for (address of side.addresses; track address) {
            <button mat-button type="button" class="mono" (click)="copy(address)">
              {{ address }}
            </button>
          } @empty {
            <span class="soft">no address yet</span>
          }
          with the secret above.
        </p>
        <p class="line">
          As files of FreeRADIUS, without the secret:
          <button mat-button type="button" (click)="copy(clients(), 'clients.conf')">Copy clients.conf</button>
          @if (side.answers.length + side.rings.length > 0) {
            <button mat-button type="button" (click)="copy(users(), 'users')">Copy users</button>
          }
        </p>
        @for (answer of side.answers; track answer.name) {
          <p class="line">
            {{ answer.name }}:
            <button mat-button type="button" class="mono" (click)="copy(filter(answer.filterId))">
              {{ filter(answer.filterId) }}
            </button>
            @if (answer.vlan; as vlan) {
              <span class="soft">or</span>
              <button mat-button type="button" class="mono" (click)="copy(tunnel(vlan))">
                Tunnel-Private-Group-Id = "{{ vlan }}"
              </button>
            }
          </p>
        }
        @for (ring of side.rings; track ring.ssid) {
          <p class="line">
            Keys of “{{ ring.ssid }}”, for a client that is called <span class="mono">{{ ring.user }}</span>:
            <button mat-button type="button" class="mono" (click)="copy(key(ring.segments[0]))">
              {{ key(ring.segments[0]) }}
            </button>
            <span class="soft">{{ ring.segments.length > 1 ? 'or another of ' + ring.segments.join(', ') : '' }}</span>
            @if (ring.byClass; as ofClass) {
              <span class="soft">or a class, with the key:</span>
              <button mat-button type="button" class="mono" (click)="copy(filter(ofClass.classes[0]!))">
                {{ filter(ofClass.classes[0]!) }}
              </button>
            }
          </p>
        }
      </il-cell>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    .line {
      margin: 0;
    }
  `,
})
export class ServerOtherSide {
  private readonly store = inject(SiteStore);
  readonly server = input.required<RadiusServer>();
  protected readonly side = computed(() => {
    const data = this.store.data();
    if (!data) return null;
    const addresses = [...new Set(data.uplinks.map(({ address }) => address))];
    return otherSideOf(resolve(data.estate, data.site), this.server(), addresses);
  });

  protected filter = (id: string): string => `Filter-Id = "${id}"`;
  protected tunnel = (vlan: string): string =>
    `Tunnel-Type = VLAN, Tunnel-Medium-Type = IEEE-802, Tunnel-Private-Group-Id = "${vlan}"`;

  /** A key and where it leads; several have tags 2, 3 and so on. */
  protected key = (segment = ''): string =>
    `Tunnel-Password:1 = "…", Tunnel-Type:1 = VLAN, Tunnel-Medium-Type:1 = IEEE-802, Tunnel-Private-Group-Id:1 = "${segment}"`;

  protected clients = (): string => writeClients(this.store.site()?.name ?? '', this.side() ?? { addresses: [] });
  protected users = (): string => writeUsers(this.side() ?? { answers: [], rings: [] });

  /** @param what it is, where its text is long. */
  protected async copy(text: string, what = text): Promise<void> {
    await this.store.attempt(async () => {
      await navigator.clipboard.writeText(text);
      this.store.say(`On the clipboard: ${what}`);
    });
  }
}
