import { Component, computed, effect, inject, input, linkedSignal, output, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { DESIGNS, inkOn, isColour, GUEST_WAYS, type GuestWay, type Language } from '@iron-lattice/core/guests';
import { leadingPorts, WAY_WORDS, type Operation, type Portal, type PortalFields } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { fieldsOf, textOf, unreadable, type PortalText } from './portal-text';
import { PortalAccount } from './portal-account';
import { PortalAsking } from './portal-asking';
import { PortalLimits } from './portal-limits';
import { languageIn, PortalLooks, WORD_FIELDS } from './portal-looks';
import { PortalPreview } from './portal-preview';

const WAYS = GUEST_WAYS.map((way) => ({ way, words: WAY_WORDS[way] }));
const WINDOWS: readonly Choice[] = [
  { value: false, label: 'opens by itself' },
  { value: true, label: 'stays closed' },
];
/** Fields whose flaws stand beside them. */
const SHOWN = [
  ...['name', 'ways', 'visit', 'dataADay', 'minutesADay', 'landing', 'garden', 'newsLink'],
  ...['kinds', 'rest', 'idle', 'known', 'slow', 'hours', 'named', 'quiet', 'rate.down', 'rate.up'],
  ...['languages', 'agree', 'ground', 'accent', 'purpose', 'first'],
  ...['name', 'issuer', 'client', 'secret', 'domains'].map((field) => `account.${field}`),
  ...['domains', 'people', 'groups', 'told', 'within'].map((field) => `sponsors.${field}`),
];

/** A portal: who is let in by what, for how long, and how its pages look, drawn beside as guests see them. */
@Component({
  selector: 'il-portal-sheet',
  imports: [
    FormsModule,
    MatButtonModule,
    MatCheckboxModule,
    Cell,
    ChoiceCell,
    PortalAccount,
    PortalAsking,
    PortalLimits,
    PortalLooks,
    PortalPreview,
    Sheet,
    TextCell,
  ],
  template: `
    <il-sheet
      [focusFirst]="portal() === null"
      [heading]="portal()?.name ?? 'New portal'"
      [note]="note()"
      (closed)="closed.emit()"
    >
      @if (portal() && session.mayChange()) {
        <button actions mat-stroked-button (click)="remove()">Remove portal</button>
      }
      @if (portal() && session.mayChange()) {
        <button actions mat-stroked-button (click)="copied.emit()">Copy it…</button>
      }
      @if (session.mayChange()) {
        <button
          actions
          mat-flat-button
          type="submit"
          form="portal-fields"
          [disabled]="form.busy() || !form.differs() || isUnreadable()"
        >
          {{ portal() ? 'Put into the draft' : 'Add portal' }}
        </button>
      }
      <div class="both">
        <form id="portal-fields" (ngSubmit)="keep()">
          <div class="cells">
            @if (portal() === null && session.mayChange()) {
              <il-choice-cell
                label="Begin with"
                for="portal-start"
                hint="A design, or what another portal says"
                [options]="starts()"
                [value]="start()"
                (chosen)="begin($event)"
              />
            }
            <il-text-cell
              label="Name"
              for="portal-name"
              hint="For you; guests read the title below"
              [flaw]="problem()?.of('name')"
              [readonly]="!session.mayChange()"
              [value]="text().name"
              (typed)="form.put({ name: $event })"
            />
            <il-cell label="Ways in" [flaw]="text().ways.length === 0 ? 'Choose one at least.' : problem()?.of('ways')">
              @for (each of ways; track each.way) {
                <mat-checkbox
                  [name]="'way-' + each.way"
                  [disabled]="!session.mayChange()"
                  [ngModel]="text().ways.includes(each.way)"
                  (ngModelChange)="tick(each.way, $event)"
                  >{{ each.words }}</mat-checkbox
                >
              }
            </il-cell>
            <il-portal-asking
              [text]="text()"
              [problem]="problem()"
              [unread]="unread()"
              [readonly]="!session.mayChange()"
              (put)="form.put($event)"
            />
            @if (text().ways.includes('account')) {
              <il-portal-account
                [text]="text()"
                [problem]="problem()"
                [readonly]="!session.mayChange()"
                (put)="form.put($event)"
              />
            }
            <il-portal-limits
              [text]="text()"
              [problem]="problem()"
              [unread]="unread()"
              [readonly]="!session.mayChange()"
              (put)="form.put($event)"
            />
            <il-text-cell
              label="Lands on"
              for="portal-landing"
              hint="Empty: the page that was asked for"
              [flaw]="problem()?.of('landing')"
              [readonly]="!session.mayChange()"
              [value]="text().landing"
              (typed)="form.put({ landing: $event })"
            />
            <il-text-cell
              label="Reached without signing in"
              for="portal-garden"
              size="wide"
              hint="A line each: ferries.example, *.ferries.example, 203.0.113.0/24"
              [rows]="3"
              [mono]="true"
              [flaw]="problem()?.of('garden')"
              [readonly]="!session.mayChange()"
              [value]="text().garden"
              (typed)="form.put({ garden: $event })"
            />
            <il-choice-cell
              label="Phones’ own small window"
              for="portal-window"
              hint="By which they tell people that they are held"
              [options]="windows"
              [disabled]="!session.mayChange()"
              [value]="text().quiet !== null"
              (chosen)="form.put({ quiet: $event ? '' : null })"
            />
            @if (text().quiet !== null) {
              <il-text-cell
                label="Names that phones look at"
                for="portal-quiet"
                size="wide"
                hint="To learn whether they are held, a line each: they reach them, and take themselves for online"
                example="online.skerrow.example"
                [rows]="2"
                [mono]="true"
                [flaw]="problem()?.of('quiet')"
                [readonly]="!session.mayChange()"
                [value]="text().quiet ?? ''"
                (typed)="form.put({ quiet: $event })"
              />
            }
            <il-cell
              label="By RADIUS"
              hint="A Filter-Id with its name: whoever is let in so is held by it"
              [flaw]="problem()?.of('named')"
            >
              <mat-checkbox
                name="named"
                [disabled]="!session.mayChange()"
                [ngModel]="text().named"
                (ngModelChange)="form.put({ named: $event })"
                >An answer may name it</mat-checkbox
              >
            </il-cell>
            <il-portal-looks
              [of]="portal()?.id ?? 'new'"
              [text]="text()"
              [problem]="problem()"
              [readonly]="!session.mayChange()"
              [(writing)]="writing"
              (put)="form.put($event)"
            />
            <il-text-cell
              label="What it is for"
              for="portal-purpose"
              size="wide"
              hint="Found by it"
              [flaw]="problem()?.of('purpose')"
              [readonly]="!session.mayChange()"
              [value]="text().purpose"
              (typed)="form.put({ purpose: $event })"
            />
            @if (other(); as message) {
              <p class="cell full flaw" role="alert">{{ message }}</p>
            }
          </div>
        </form>
        <il-portal-preview [portal]="drawn()" [siteName]="siteName()" [timeZone]="timeZone()" />
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .both {
      display: grid;
      grid-template-columns: minmax(0, 1fr) minmax(0, 430px);
    }
    mat-checkbox {
      display: block;
    }
    il-portal-preview {
      position: sticky;
      top: 0;
      align-self: start;
    }
    @media (max-width: 1000px) {
      .both {
        grid-template-columns: minmax(0, 1fr);
      }
      il-portal-preview {
        position: static;
      }
    }
  `,
})
export class PortalSheet {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  /** Null for a new one. */
  readonly portal = input.required<Portal | null>();
  readonly closed = output<void>();
  /** Somebody wants a new one that begins as this one. */
  readonly copied = output();
  /** What a new one begins with: the id of another. */
  readonly from = input<string | null>(null);
  /** Id of the portal that is in the draft now. */
  readonly kept = output<string>();
  protected readonly ways = WAYS;
  protected readonly windows = WINDOWS;

  protected readonly form = new EditForm<Portal, PortalText>({
    kept: () => this.portal(),
    idOf: ({ id }) => id,
    textOf,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() =>
    this.form.other([...SHOWN, ...WORD_FIELDS.map((field) => `words.${this.language()}.${field}`)]),
  );
  protected readonly unread = computed(() => unreadable(this.text()));
  protected readonly isUnreadable = computed(() => Object.keys(this.unread()).length > 0);
  /** The language that words are written in. */
  protected readonly writing = anewFor<Language | null>(
    () => this.portal()?.id,
    () => null,
  );
  private readonly language = computed(() => languageIn(this.text(), this.writing()));
  /** What is typed, as far as it can be drawn. */
  protected readonly drawn = computed((): Portal => {
    const { ground, accent, ...fields } = fieldsOf(this.text());
    return {
      ...{ id: '', ...fields, visit: Number.isNaN(fields.visit) ? 60 : fields.visit },
      ...{ ground: isColour(ground) ? ground : '#ffffff', accent: isColour(accent) ? accent : inkOn('#ffffff') },
    };
  });
  protected readonly siteName = computed(() => this.store.site()?.name ?? 'your site');
  protected readonly timeZone = computed(
    () => this.store.site()?.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone,
  );
  protected readonly note = computed(() => {
    const portal = this.portal();
    if (!portal) return 'Sites share it; SSIDs and ports whose guests it holds name it, under Wireless and Ports.';
    const held = (this.shared.estate()?.ssids ?? []).filter(({ portal: id }) => id === portal.id);
    const site = this.store.site();
    const ports = site ? (leadingPorts(site).get(portal.id)?.length ?? 0) : 0;
    const by = [
      ...held.map(({ name }) => name),
      ...(ports > 0 ? [`${counted(ports, 'port')} of ${site!.name}`] : []),
      ...(portal.named ? ['whom a RADIUS server sends to it'] : []),
    ];
    if (by.length === 0) return 'Nothing leads to it here yet: choose it in an SSID’s or a port’s sheet.';
    return `Holds guests of ${by.join(', ')}. Edits reach all its sites.`;
  });

  /** What a new one may begin with: designs, and the portals that are there. */
  protected readonly starts = computed(() => [
    ...DESIGNS.map(({ name }) => ({ value: `design ${name}`, label: name })),
    ...(this.shared.estate()?.portals ?? []).map(({ id, name }) => ({ value: id, label: `as “${name}”` })),
  ]);
  protected readonly start = linkedSignal(() => this.from() ?? `design ${DESIGNS[0]!.name}`);
  private readonly copying = effect(() => {
    const from = this.from();
    if (from !== null && this.portal() === null) untracked(() => this.begin(from));
  });

  /** Puts in what a design or another portal says; its name is its own. */
  protected begin(start: string): void {
    this.start.set(start);
    const design = DESIGNS.find(({ name }) => start === `design ${name}`);
    if (design) return this.form.put({ ground: design.ground, accent: design.accent });
    const other = this.shared.estate()?.portals?.find(({ id }) => id === start);
    if (other) this.form.put({ ...textOf(other), name: this.text().name });
  }

  protected tick(way: GuestWay, on: boolean): void {
    const ways = WAYS.map((each) => each.way).filter((each) => (each === way ? on : this.text().ways.includes(each)));
    this.form.put({ ways });
  }

  protected async keep(): Promise<void> {
    if (this.isUnreadable()) return;
    await this.form.send(async () => {
      const portal = this.portal();
      const { fields, secrets } = withSecret(fieldsOf(this.text()), this.text().accountSecret);
      const id = portal?.id ?? crypto.randomUUID();
      const edit: Operation = portal ? this.change(portal, fields) : { type: 'portal.add', portal: { id, ...fields } };
      await this.store.edit([edit], secrets);
      this.kept.emit(id);
    });
  }

  private change(portal: Portal, fields: PortalFields): Operation {
    const { from, to } = this.form.change<Partial<PortalFields>>(fields, (each) => each);
    return { type: 'portal.set', portalId: portal.id, from, to };
  }

  protected async remove(): Promise<void> {
    if (await this.store.tryEdit([{ type: 'portal.remove', portalId: this.portal()!.id }])) this.closed.emit();
  }
}

/** What was typed, with a secret that is new beside it. */
function withSecret(
  fields: PortalFields,
  typed: string,
): { readonly fields: PortalFields; readonly secrets: Readonly<Record<string, string>> } {
  if (!fields.account || typed === '') return { fields, secrets: {} };
  const secret = crypto.randomUUID();
  return { fields: { ...fields, account: { ...fields.account, secret: { secret } } }, secrets: { [secret]: typed } };
}
