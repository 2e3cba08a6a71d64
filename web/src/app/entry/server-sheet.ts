import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { RADIUS_SECRET, type RadiusServer } from '@iron-lattice/core/intent';
import { MAC_FORMATS, macAs } from '@iron-lattice/core/radius';
import { drawKey } from '@iron-lattice/core/base';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { AtSites } from '../shell/at-sites';
import { EditForm } from '../shell/edit-form';
import { ReachCell } from '../shell/reach-cell';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { OwnCertificate } from './certificates/own-certificate';
import { ServerIfDead } from './server-if-dead';
import { ServerOtherSide } from './server-other-side';
import { ServerTest } from './server-test';
import { serverEdit, serverTextOf, type ServerText } from './server-text';

const FIELDS = [
  'name',
  'address',
  'port',
  'accounting',
  'secret',
  'timeout',
  'tries',
  'dead',
  'purpose',
  'authority',
  'certificateName',
];
const EXAMPLE = '02:1a:00:00:0b:07';
const MACS: readonly Choice[] = [
  { value: null, label: 'not asked about them' },
  ...MAC_FORMATS.map((format) => ({ value: format, label: `as ${macAs(EXAMPLE, format)}` })),
];
const ORDERS: readonly Choice[] = Array.from({ length: 9 }, (_, i) => ({ value: i + 1, label: String(i + 1) }));
const SOURCES: readonly Choice[] = [
  { value: 'device', label: 'each AP and switch itself' },
  { value: 'gateway', label: 'the site’s gateway for all' },
];
const random = (count: number): Uint32Array => crypto.getRandomValues(new Uint32Array(count));
const proposed = (): string => drawKey(RADIUS_SECRET.proposed, 'clear', random);

/** A RADIUS server's sheet, new or there already: where it is, how it is asked, and what it says to somebody who is tried. */
@Component({
  selector: 'il-server-sheet',
  imports: [
    FormsModule,
    MatButtonModule,
    MatCheckboxModule,
    AtSites,
    Cell,
    ChoiceCell,
    ReachCell,
    OwnCertificate,
    ServerIfDead,
    ServerOtherSide,
    ServerTest,
    Sheet,
    TextCell,
  ],
  template: `
    <il-sheet
      [focusFirst]="server() === null"
      [heading]="server()?.name ?? (own() ? 'Have this controller asked' : 'New RADIUS server')"
      [note]="note()"
      (closed)="closed.emit()"
    >
      @if (server() && session.mayChange()) {
        <button actions mat-stroked-button (click)="remove()">Remove server</button>
      }
      @if (session.mayChange()) {
        <button
          actions
          mat-flat-button
          type="submit"
          form="server-fields"
          [disabled]="form.busy() || (server() !== null && !form.differs()) || nowhere()"
        >
          {{ server() ? 'Put into the draft' : 'Add server' }}
        </button>
      }
      @if (server(); as kept) {
        @if (session.mayChange() && !shared.atEstate()) {
          <il-server-test [server]="kept" [differs]="form.differs()" />
        }
      }
      <form id="server-fields" (ngSubmit)="keep()">
        <div class="cells">
          <il-text-cell
            label="Name"
            for="server-name"
            [flaw]="problem()?.of('name')"
            [most]="60"
            [readonly]="!session.mayChange()"
            [value]="text().name"
            (typed)="set({ name: $event })"
          />
          @if (!text().own) {
            <il-text-cell
              label="Name or address of its host"
              for="server-address"
              [mono]="true"
              example="radius.skerrow.example"
              [flaw]="problem()?.of('address')"
              [readonly]="!session.mayChange()"
              [value]="text().address"
              (typed)="set({ address: $event })"
            />
          }
          <il-text-cell
            [label]="text().own ? 'Secret between it and devices' : 'Secret, shared with it'"
            for="server-secret"
            size="wide"
            [kind]="shown() ? 'text' : 'password'"
            autocomplete="new-password"
            [mono]="true"
            [hint]="secretHint()"
            [example]="server() ? 'kept' : ''"
            [flaw]="problem()?.of('secret')"
            [readonly]="!session.mayChange()"
            [value]="text().secret"
            (typed)="set({ secret: $event })"
          >
            @if (session.mayChange()) {
              <ng-container ngProjectAs="[beside]">
                <button mat-button type="button" (click)="reveal()">{{ shown() ? 'Hide' : 'Show' }}</button>
                <button mat-button type="button" (click)="draw()">Draw one</button>
              </ng-container>
            }
          </il-text-cell>
          <il-reach-cell
            for="server-reach"
            [of]="server()?.id ?? null"
            [reach]="text().reach"
            [disabled]="!session.mayChange()"
            (chosen)="set({ reach: $event })"
          />
          <il-choice-cell
            label="Order"
            for="server-order"
            [options]="orders"
            [hint]="orderHint()"
            [value]="text().order"
            [disabled]="!session.mayChange()"
            (chosen)="set({ order: $event })"
          />
          <il-choice-cell
            label="Who asks it"
            for="server-source"
            [options]="sources"
            [value]="text().source"
            [disabled]="!session.mayChange()"
            (chosen)="set({ source: $event })"
          />
          <il-choice-cell
            label="MAC addresses of clients"
            for="server-macs"
            [options]="macs"
            hint="As name and password. It says who somebody claims to be, and proves nothing."
            [value]="text().macs"
            [disabled]="!session.mayChange()"
            (chosen)="set({ macs: $event })"
          />
          @if (!text().own) {
            <il-text-cell
              label="UDP port"
              for="server-port"
              [mono]="true"
              [flaw]="problem()?.of('port')"
              [readonly]="!session.mayChange()"
              [value]="text().port"
              (typed)="set({ port: $event })"
            />
            <il-text-cell
              label="UDP port of accounting"
              for="server-accounting"
              [mono]="true"
              hint="Told who came, for how long, and how much they took; empty: not told"
              [flaw]="problem()?.of('accounting')"
              [readonly]="!session.mayChange()"
              [value]="text().accounting"
              (typed)="set({ accounting: $event })"
            />
          }
          <il-text-cell
            label="Asked again after, in seconds"
            for="server-timeout"
            [mono]="true"
            [hint]="waitHint()"
            [flaw]="problem()?.of('timeout')"
            [readonly]="!session.mayChange()"
            [value]="text().timeout"
            (typed)="set({ timeout: $event })"
          />
          <il-text-cell
            label="Asked at most, times"
            for="server-tries"
            [mono]="true"
            [flaw]="problem()?.of('tries')"
            [readonly]="!session.mayChange()"
            [value]="text().tries"
            (typed)="set({ tries: $event })"
          />
          <il-text-cell
            label="Then left alone for, in seconds"
            for="server-dead"
            [mono]="true"
            [flaw]="problem()?.of('dead')"
            [readonly]="!session.mayChange()"
            [value]="text().dead"
            (typed)="set({ dead: $event })"
          />
          @if (!text().own) {
            <il-cell label="Answers must be proven" [hint]="proofHint()">
              <mat-checkbox
                [checked]="!text().unsigned"
                [disabled]="!session.mayChange()"
                (change)="set({ unsigned: !$event.checked })"
                >by Message-Authenticator</mat-checkbox
              >
            </il-cell>
          }
          @if (!text().own) {
            <il-text-cell
              label="Name in its certificate"
              for="server-certificate"
              [mono]="true"
              hint="Of EAP methods with TLS; empty: any"
              example="radius.skerrow.example"
              [flaw]="problem()?.of('certificateName')"
              [readonly]="!session.mayChange()"
              [value]="text().certificateName"
              (typed)="set({ certificateName: $event })"
            />
            <il-text-cell
              label="Its authority’s certificate, as PEM"
              for="server-authority"
              size="wide"
              [mono]="true"
              [rows]="3"
              hint="By which clients believe it, and who tries it here"
              example="-----BEGIN CERTIFICATE-----"
              [flaw]="problem()?.of('authority')"
              [readonly]="!session.mayChange()"
              [value]="text().authority"
              (typed)="set({ authority: $event })"
            />
          }
          <il-text-cell
            label="What it is for"
            for="server-purpose"
            size="wide"
            hint="Found by it"
            [flaw]="problem()?.of('purpose')"
            [readonly]="!session.mayChange()"
            [value]="text().purpose"
            (typed)="set({ purpose: $event })"
          />
          @if (server(); as kept) {
            @if (shared.atEstate()) {
              <p class="cell full soft">Tried at a site, by one of its devices: open one of these, then its Entry.</p>
              <il-at-sites kind="radius" stage="entry" [id]="kept.id" />
            } @else {
              <il-server-if-dead [server]="kept" />
            }
            @if (!shared.atEstate() && !kept.own) {
              <il-server-other-side [server]="kept" />
            }
            @if (kept.own) {
              <il-own-certificate />
            }
          }
          @if (other(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class ServerSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  /** Null for a new one. */
  readonly server = input.required<RadiusServer | null>();
  /** Whether a new one is this controller. */
  readonly own = input(false);
  readonly closed = output<void>();
  /** Id of the server that is in the draft now. */
  readonly kept = output<string>();
  protected readonly orders = ORDERS;
  protected readonly sources = SOURCES;
  protected readonly macs = MACS;

  private readonly first = proposed();
  protected readonly form = new EditForm<RadiusServer, ServerText>({
    kept: () => this.server(),
    idOf: ({ id }) => id,
    textOf: (each) => serverTextOf(each, this.shared.newReach(), this.first, this.own()),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly shown = signal(false);
  protected readonly other = computed(() => this.form.other(FIELDS));
  /** Whether it would reach no site at all. */
  protected readonly nowhere = computed(() => {
    const { reach } = this.text();
    return reach.kind === 'sites' && reach.siteIds.length === 0;
  });
  protected readonly secretHint = computed(() => {
    const { secret, own } = this.text();
    if (own) return 'Devices are told it; nobody has to enter it anywhere';
    if (secret === '') return this.server() ? 'Empty keeps it' : 'The same has to be entered at the server';
    const size = [...secret].length;
    return size < RADIUS_SECRET.good
      ? `${size} characters can be tried out by whoever hears one request; ${RADIUS_SECRET.good} or more that nobody thought of cannot`
      : `${size} characters; the same has to be entered at the server`;
  });
  protected readonly note = computed(() =>
    this.text().own
      ? 'It answers for the users it keeps; devices find it where their line ends.'
      : 'Asked who somebody is, by SSIDs and ports that let in by that.',
  );
  protected readonly orderHint = computed(() =>
    this.text().own
      ? 'Before others of its number: whom it does not keep is asked of the next; the no of another server is final'
      : '1 is asked first; several with one number take turns; the next number when these are dead',
  );
  protected readonly waitHint = computed(() => {
    const { timeout, tries } = this.text();
    const seconds = Number(timeout) * Number(tries);
    return seconds > 0 && seconds < 1000 ? `With all tries somebody waits ${seconds} s for a dead one` : '';
  });
  protected readonly proofHint = computed(() =>
    this.text().unsigned
      ? 'Taken as they are: whoever is on the way can turn a no into a yes (CVE-2024-3596)'
      : 'What lacks it is no answer',
  );

  protected set(change: Partial<ServerText>): void {
    this.form.put(change);
  }

  protected draw(): void {
    this.set({ secret: proposed() });
    this.shown.set(true);
  }

  /** Shows the secret that is kept; noted in the journal. */
  protected async reveal(): Promise<void> {
    const kept = this.server()?.secret.secret;
    if (!this.shown() && kept && this.text().secret === '') {
      await this.store.attempt(async () => {
        const url = `/api/secrets/${kept}/reveal`;
        this.set({ secret: (await firstValueFrom(this.http.post<{ value: string }>(url, {}))).value });
      });
    }
    this.shown.update((shown) => !shown);
  }

  protected async keep(): Promise<void> {
    if ((this.server() && !this.form.differs()) || this.nowhere()) return;
    await this.form.send(async () => {
      const { operation, secrets, id } = serverEdit(this.server(), this.form);
      await this.store.edit([operation], secrets);
      this.shown.set(false);
      this.kept.emit(id);
    });
  }

  protected async remove(): Promise<void> {
    if (await this.store.tryEdit([{ type: 'radius.remove', radiusId: this.server()!.id }])) this.closed.emit();
  }
}
