import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import { isMadeUpMac, MOST_CLIENT_TEXT, type RegisteredClient } from '@iron-lattice/core/entry';
import { SessionStore } from '../../session/session-store';
import { EditForm } from '../../shell/edit-form';
import { liveFetch } from '../../shell/live-fetch';
import { SharedStore } from '../../shell/shared-store';
import { SiteStore } from '../../shell/site-store';
import { Sheet } from '../../ui/sheet';
import { TextCell } from '../../ui/text-cell';
import { RegisterStore } from './register-store';
import { calledOf, momentWords, stayWords } from './register-view';

const FIELDS = ['name', 'note'];

/** One client of the register: what people call it, and everywhere it was. */
@Component({
  selector: 'il-client-sheet',
  imports: [MatButtonModule, RouterLink, Sheet, TextCell],
  template: `
    <il-sheet [heading]="calledOf(client())" [note]="note()" (closed)="closed.emit()">
      @if (bench(); as link) {
        <a actions mat-button [routerLink]="link" [queryParams]="{ as: 'gets', who: client().mac }"
          >What it gets here</a
        >
      }
      @if (session.mayChange()) {
        <button
          actions
          mat-stroked-button
          type="button"
          (click)="store.sheet.set({ of: 'forget', clients: [client()] })"
        >
          Erase…
        </button>
      }
      @if (session.mayChange()) {
        <button actions mat-flat-button type="submit" form="client-fields" [disabled]="form.busy() || !form.differs()">
          Note it now
        </button>
      }
      <form id="client-fields" (submit)="$event.preventDefault(); keep()">
        <div class="cells">
          <il-text-cell
            label="Called here"
            for="client-name"
            [hint]="'Shown wherever it is' + (client().said === '' ? '' : ', instead of ' + client().said)"
            [example]="client().said || 'Till of the kiosk'"
            [most]="most.name"
            [flaw]="problem()?.of('name')"
            [readonly]="!session.mayChange()"
            [value]="form.text().name"
            (typed)="form.put({ name: $event })"
          />
          <il-text-cell
            label="Note"
            for="client-note"
            size="wide"
            hint="Erased with the client"
            [most]="most.note"
            [flaw]="problem()?.of('note')"
            [readonly]="!session.mayChange()"
            [value]="form.text().note"
            (typed)="form.put({ note: $event })"
          />
          <div class="cell full">
            <table class="grid" aria-label="Where it was">
              <thead>
                <tr>
                  <th scope="col">Where</th>
                  <th scope="col">Last</th>
                  <th scope="col">As</th>
                  <th scope="col">Segment</th>
                  <th scope="col" class="second">First</th>
                  <th scope="col" class="second">Came</th>
                </tr>
              </thead>
              <tbody>
                @for (each of stays.value() ?? []; track $index) {
                  <tr>
                    <td>
                      {{ stayWords(each) }} <span class="soft">{{ each.site }}</span>
                    </td>
                    <td [class.good]="each.here">{{ each.here ? 'here now' : momentWords(each.lastAt) }}</td>
                    <td>{{ asWords(each) }}</td>
                    <td>{{ each.segment }}</td>
                    <td class="second">{{ momentWords(each.firstAt) }}</td>
                    <td class="second">{{ each.times }} ×</td>
                  </tr>
                } @empty {
                  <tr>
                    <td colspan="6" class="soft">
                      {{ stays.value() ? 'The devices that saw it are none of ours any more.' : 'Asking…' }}
                    </td>
                  </tr>
                }
              </tbody>
            </table>
          </div>
          @if (other(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .good {
      color: var(--good);
    }
    @media (max-width: 720px) {
      .second {
        display: none;
      }
    }
  `,
})
export class ClientSheet {
  protected readonly store = inject(RegisterStore);
  protected readonly session = inject(SessionStore);
  private readonly site = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  readonly client = input.required<RegisteredClient>();
  readonly closed = output<void>();
  protected readonly most = MOST_CLIENT_TEXT;
  protected readonly calledOf = calledOf;
  protected readonly momentWords = momentWords;
  protected readonly stayWords = stayWords;
  protected readonly form = new EditForm<RegisteredClient, { name: string; note: string }>({
    kept: () => this.client(),
    idOf: ({ mac }) => mac,
    textOf: (client) => ({ name: client?.name ?? '', note: client?.note ?? '' }),
  });
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly stays = liveFetch({
    of: () => ({ mac: this.client().mac, last: this.client().lastAt, where: this.client().last }),
    stays: true,
    fetch: ({ mac }) => this.store.stays(mac),
    when: () => false,
  });
  protected readonly bench = computed(() => {
    const siteId = this.site.siteId();
    return siteId && !this.shared.atEstate() ? ['/sites', siteId, 'bench'] : null;
  });
  protected readonly note = computed(() => {
    const { mac, firstAt } = this.client();
    const made = isMadeUpMac(mac) ? '; it made this address up, and may come with another' : '';
    return `${mac}, first seen ${momentWords(firstAt)}${made}`;
  });

  protected asWords({ user, accessClass, server }: { user: string; accessClass: string; server: string }): string {
    const who = [user, accessClass].filter((each) => each !== '').join(', ');
    return who === '' ? '–' : server === '' ? who : `${who} (by ${server})`;
  }

  protected async keep(): Promise<void> {
    if (!this.form.differs() || this.form.busy()) return;
    const [client, was, to] = [this.client(), this.form.seen() ?? this.client(), this.form.text()];
    const trimmed = { name: to.name.trim(), note: to.note.trim() };
    await this.form.send(() => this.store.say(client, { name: was.name, note: was.note }, trimmed));
  }
}
