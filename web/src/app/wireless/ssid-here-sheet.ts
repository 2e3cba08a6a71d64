import { Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { asksPassphrase } from '@iron-lattice/core/document';
import type { Ssid } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { CAP_FIELDS, capsReadable } from '../shell/caps-text';
import { EditForm } from '../shell/edit-form';
import { EstateStore } from '../shell/estate-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { SsidBands } from './ssid-bands';
import { SsidCaps } from './ssid-caps';
import { exceptionEdit, hereText, type HereText } from './ssid-exception';
import { numberFlaw } from './ssid-text';
import { SsidToAll } from './ssid-to-all';
import { segmentChoices } from './segments-there';
import { SsidTunnel, tunnelWords } from './ssid-tunnel';

const SHOWN = [
  'segment',
  'tunnel',
  'passphrase',
  'bands',
  'hours',
  'join',
  'stay',
  'most',
  'hidden',
  'steer',
  'multicast',
  ...CAP_FIELDS,
];

/** What one site has otherwise of an SSID that others share. */
@Component({
  selector: 'il-ssid-here-sheet',
  imports: [
    FormsModule,
    MatButtonModule,
    MatCheckboxModule,
    Cell,
    ChoiceCell,
    Sheet,
    SsidBands,
    SsidCaps,
    SsidToAll,
    SsidTunnel,
    TextCell,
  ],
  template: `
    <il-sheet [heading]="ssid().name + ' at ' + place()" note="Counts at this site alone" (closed)="closed.emit()">
      <button actions mat-stroked-button (click)="back.emit()">What all sites have</button>
      @if (said() && session.mayChange()) {
        <button actions mat-stroked-button (click)="asElsewhere()">All as elsewhere</button>
      }
      @if (session.mayChange()) {
        <button
          actions
          mat-flat-button
          type="submit"
          form="ssid-here-fields"
          [disabled]="form.busy() || !form.differs() || unready()"
        >
          Put into the draft
        </button>
      }
      <form id="ssid-here-fields" (ngSubmit)="keep()">
        <div class="cells">
          <il-choice-cell
            label="Sent here"
            for="here-off"
            [hint]="elsewhere('off')"
            [options]="sent"
            [value]="text().off"
            [disabled]="!session.mayChange()"
            (chosen)="set({ off: $event })"
          />
          <il-choice-cell
            label="Segment its clients join"
            for="here-segment"
            [hint]="elsewhere('segment')"
            [options]="segments()"
            [value]="text().segment"
            [disabled]="!session.mayChange()"
            [flaw]="problem()?.of('segment')"
            (chosen)="set({ segment: $event })"
          />
          <il-ssid-tunnel
            [value]="text().tunnel"
            [problem]="problem()"
            [mayChange]="session.mayChange()"
            [hint]="elsewhere('tunnel')"
            (changed)="set($event)"
          />
          @if (asksPassphrase(ssid().security) && !ssid().ring) {
            <il-choice-cell
              label="Passphrase"
              for="here-own"
              [options]="owns"
              [value]="text().own"
              [disabled]="!session.mayChange()"
              (chosen)="set({ own: $event, passphrase: '' })"
            />
            @if (text().own) {
              <il-text-cell
                label="Passphrase of this site"
                for="here-passphrase"
                autocomplete="new-password"
                kind="password"
                [hint]="kept() ? '8 to 63 characters; empty keeps it' : '8 to 63 characters'"
                [example]="kept() ? 'kept' : ''"
                [mono]="true"
                [flaw]="problem()?.of('passphrase')"
                [readonly]="!session.mayChange()"
                [value]="text().passphrase"
                (typed)="set({ passphrase: $event })"
              />
            }
          }
          <il-ssid-bands
            [hint]="elsewhere('bands')"
            [bands]="text().bands"
            [flaw]="problem()?.of('bands')"
            [mayChange]="session.mayChange()"
            (changed)="set({ bands: $event })"
          >
          </il-ssid-bands>
          <il-choice-cell
            label="On the air"
            for="here-hours"
            [hint]="elsewhere('hours')"
            [options]="hours()"
            [value]="text().hours"
            [disabled]="!session.mayChange()"
            [flaw]="problem()?.of('hours')"
            (chosen)="set({ hours: $event })"
          />
          <il-ssid-caps
            [ssid]="ssid()"
            [text]="text()"
            [problem]="problem()"
            [mayChange]="session.mayChange()"
            (changed)="set({ caps: { ...text().caps, ...$event } })"
          />
          @for (each of numbers; track each.field) {
            <il-text-cell
              [label]="each.label"
              [for]="'here-' + each.field"
              [hint]="elsewhere(each.field) || each.hint"
              [mono]="true"
              [flaw]="numberFlaw(text()[each.field]) || problem()?.of(each.field)"
              [readonly]="!session.mayChange()"
              [value]="text()[each.field]"
              (typed)="put(each.field, $event)"
            />
          }
          <il-cell label="Its name" role="group" aria-label="Its name" [hint]="elsewhere('hidden')">
            <mat-checkbox
              [disabled]="!session.mayChange()"
              [checked]="text().hidden"
              (change)="set({ hidden: $event.checked })"
              >hidden from lists</mat-checkbox
            >
          </il-cell>
          <il-cell
            label="Who does both 2.4 GHz and more"
            role="group"
            aria-label="Who does both 2.4 GHz and more"
            [hint]="elsewhere('steer')"
          >
            <mat-checkbox
              [disabled]="!session.mayChange()"
              [checked]="text().steer"
              (change)="set({ steer: $event.checked })"
              >is steered to the wider band</mat-checkbox
            >
          </il-cell>
          <il-ssid-to-all
            [ssid]="ssid()"
            [text]="text()"
            [problem]="problem()"
            [mayChange]="session.mayChange()"
            (changed)="set($event)"
          />
          @if (form.other(fields); as message) {
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
    mat-checkbox {
      margin-right: 10px;
    }
  `,
})
export class SsidHereSheet {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  private readonly estate = inject(EstateStore);
  protected readonly session = inject(SessionStore);
  readonly ssid = input.required<Ssid>();
  readonly closed = output<void>();
  /** To what all sites have. */
  readonly back = output<void>();
  protected readonly fields = SHOWN;
  protected readonly asksPassphrase = asksPassphrase;
  protected readonly numberFlaw = numberFlaw;
  protected readonly sent: readonly Choice[] = [
    { value: false, label: 'yes' },
    { value: true, label: 'no, switched off here' },
  ];
  protected readonly owns: readonly Choice[] = [
    { value: false, label: 'the one of all sites' },
    { value: true, label: 'one of this site' },
  ];
  protected readonly numbers = [
    { field: 'join', label: 'Lowest signal to join, dBm', hint: 'Empty: whoever is heard' },
    { field: 'stay', label: 'Lowest signal to stay, dBm', hint: 'Sent away below; empty: nobody is' },
    { field: 'most', label: 'Most clients a radio', hint: 'Empty: as many as come' },
  ] as const;

  private readonly siteId = computed(() => this.store.siteId() ?? '');
  protected readonly place = computed(() => this.store.site()?.name ?? '');
  protected readonly form = new EditForm<Ssid, HereText>({
    kept: () => this.ssid(),
    idOf: ({ id }) => `${id} ${this.siteId()}`,
    textOf: (ssid) => hereText(ssid!, this.siteId()),
  });
  protected readonly text = this.form.text;
  protected readonly segments = segmentChoices(this.text);
  protected readonly problem = this.form.problem;
  protected readonly said = computed(() => this.ssid().exceptions?.[this.siteId()]);
  protected readonly kept = computed(() => Boolean(this.said()?.passphrase));
  protected readonly hours = this.shared.hoursChoices;
  protected readonly unready = computed(() => {
    const { own, passphrase, caps, join, stay, most } = this.text();
    const lacks = own && passphrase === '' && !this.kept();
    return lacks || !capsReadable(caps) || [join, stay, most].some((each) => numberFlaw(each) !== '');
  });

  /** What other sites have, where it is not what is typed here. */
  protected elsewhere(
    field: 'off' | 'segment' | 'tunnel' | 'bands' | 'hours' | 'join' | 'stay' | 'most' | 'hidden' | 'steer',
  ): string {
    const [all, here] = [hereText(this.ssid(), ''), this.text()];
    if (JSON.stringify(all[field]) === JSON.stringify(here[field])) return 'As elsewhere';
    const named = this.hours().find(({ value }) => value === all.hours)?.label ?? '';
    const words: Readonly<Record<typeof field, string>> = {
      off: all.off ? 'switched off' : 'sent',
      segment: all.segment,
      tunnel: tunnelWords(all.tunnel, this.estate.siteChoices()),
      bands: `${all.bands.join(', ')} GHz`,
      hours: named,
      hidden: all.hidden ? 'hidden' : 'shown',
      steer: all.steer ? 'steered' : 'not steered',
      ...{ join: all.join || 'none', stay: all.stay || 'none', most: all.most || 'none' },
    };
    return `Elsewhere ${words[field]}`;
  }

  protected set(change: Partial<HereText>): void {
    this.form.put(change);
  }

  protected put(field: 'join' | 'stay' | 'most', value: string): void {
    this.set({ [field]: value });
  }

  protected async keep(): Promise<void> {
    await this.form.send(async () => {
      const { operation, secrets } = exceptionEdit(
        this.ssid(),
        this.form.seen() ?? this.ssid(),
        this.siteId(),
        this.text(),
      );
      await this.store.edit([operation], secrets);
    });
  }

  /** Nothing is otherwise here any more. */
  protected async asElsewhere(): Promise<void> {
    const from = { exceptions: { [this.siteId()]: this.said()! } };
    await this.store.tryEdit([{ type: 'ssid.set', ssidId: this.ssid().id, from, to: { exceptions: {} } }]);
  }
}
