import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { drawKey } from '@iron-lattice/core/base';
import { hereOf, MOST_PACT_NAME, type Pact } from '@iron-lattice/core/intent';
import type { PactReport } from '@iron-lattice/core/paths';
import { SessionStore } from '../../session/session-store';
import { EditForm } from '../../shell/edit-form';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';
import { Sheet } from '../../ui/sheet';
import { TextCell } from '../../ui/text-cell';
import { anewFor } from '../../ui/anew-for';
import { KeptEdits } from '../kept-edits';
import type { GatewayRow } from '../path-rows';
import { PactFares } from './pact-fares';
import { PactOffer } from './pact-offer';
import { PactOtherSide } from './pact-other-side';
import { PactOutlookCell } from './pact-outlook';
import { pactTextOf, pactTyped, type PactText } from './pact-text';

const FIELDS = [
  ...['name', 'at', 'own', 'other', 'key', 'segments', 'prefixes', 'behind', 'ike', 'esp', 'lasts', 'says', 'purpose'],
];
/** Characters of a key that is made here. */
const KEY_LENGTH = 40;
const random = (count: number): Uint32Array => crypto.getRandomValues(new Uint32Array(count));

/** A tunnel to a gateway of others: one that there is, whose edits go into the draft as they are made, or one that is to be added. */
@Component({
  selector: 'il-pact-sheet',
  imports: [
    MatButtonModule,
    MatCheckboxModule,
    Cell,
    ChoiceCell,
    PactFares,
    PactOffer,
    PactOtherSide,
    PactOutlookCell,
    Sheet,
    TextCell,
  ],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" [focusFirst]="pact() === null" (closed)="closed.emit()">
      @if (pact() && session.mayChange()) {
        <button actions mat-button type="button" (click)="remove()">Take away</button>
      }
      @if (pact() === null) {
        <button actions mat-flat-button type="button" [disabled]="form.busy()" (click)="add()">Add it</button>
      }
      <div class="cells">
        @let typed = text();
        @let fixed = !session.mayChange();
        <il-text-cell
          label="Called"
          for="pact-name"
          example="Moorhaven Stores"
          [most]="most"
          [flaw]="problem()?.of('name')"
          [readonly]="fixed"
          [value]="typed.name"
          (typed)="form.put({ name: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="The other gateway is at"
          for="pact-at"
          example="203.0.113.60"
          hint="Empty: it is the one that calls"
          [mono]="true"
          [flaw]="problem()?.of('at')"
          [readonly]="fixed"
          [value]="typed.at"
          (typed)="form.put({ at: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="It names itself"
          for="pact-other"
          example="gw.moorhaven.example"
          hint="A host’s name, an address, or a mail address"
          [mono]="true"
          [flaw]="problem()?.of('other')"
          [readonly]="fixed"
          [value]="typed.other"
          (typed)="form.put({ other: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="Ours names itself"
          for="pact-own"
          example="harbour.skerrow.example"
          [mono]="true"
          [flaw]="problem()?.of('own')"
          [readonly]="fixed"
          [value]="typed.own"
          (typed)="form.put({ own: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="Key that both know"
          for="pact-key"
          size="wide"
          autocomplete="new-password"
          [kind]="shown() ? 'text' : 'password'"
          [example]="pact() ? 'kept; empty keeps it' : ''"
          [hint]="'16 to 120 characters; a made one has ' + keyLength"
          [mono]="true"
          [flaw]="problem()?.of('key') || keyless()"
          [readonly]="fixed"
          [value]="typed.key"
          (typed)="form.put({ key: $event })"
          (done)="save()"
        >
          @if (session.mayChange()) {
            <button beside mat-button type="button" (click)="makeKey()">Make one</button>
          }
        </il-text-cell>
        <il-choice-cell
          label="It reaches, of this site"
          for="pact-segments"
          size="wide"
          example="nothing yet"
          [several]="true"
          [flaw]="problem()?.of('segments')"
          [disabled]="fixed"
          [options]="segments()"
          [value]="typed.segments"
          (chosen)="set({ segments: $event })"
        />
        <il-text-cell
          label="and beside that"
          for="pact-prefixes"
          example="none; or 10.20.0.0/16"
          hint="Such as networks of joined sites"
          [mono]="true"
          [flaw]="problem()?.of('prefixes')"
          [readonly]="fixed"
          [value]="typed.prefixes"
          (typed)="form.put({ prefixes: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="Networks behind it"
          for="pact-behind"
          size="full"
          example="172.20.0.0/16"
          [mono]="true"
          [flaw]="problem()?.of('behind')"
          [readonly]="fixed"
          [value]="typed.behind"
          (typed)="form.put({ behind: $event })"
          (done)="save()"
        />
        <il-pact-offer
          of="Exchange"
          for="pact-ike"
          [offer]="typed.ike"
          [flaw]="problem()?.of('ike')"
          [readonly]="fixed"
          (changed)="set({ ike: $event })"
        />
        <il-text-cell
          label="Its keys last, s"
          for="pact-lasts-ike"
          [mono]="true"
          [flaw]="problem()?.of('lasts')"
          [readonly]="fixed"
          [value]="typed.lastsIke"
          (typed)="form.put({ lastsIke: $event })"
          (done)="save()"
        />
        <il-pact-offer
          of="Packets"
          for="pact-esp"
          [offer]="typed.esp"
          [flaw]="problem()?.of('esp')"
          [readonly]="fixed"
          (changed)="set({ esp: $event })"
        />
        <il-text-cell
          label="Their keys last, s"
          for="pact-lasts-esp"
          [mono]="true"
          [readonly]="fixed"
          [value]="typed.lastsEsp"
          (typed)="form.put({ lastsEsp: $event })"
          (done)="save()"
        />
        <il-cell label="What the other is told" size="full" [flaw]="problem()?.of('says')">
          <mat-checkbox [disabled]="fixed" [checked]="typed.says" (change)="set({ says: $event.checked })">
            Its people say that it is told something else than the sheet below says
          </mat-checkbox>
        </il-cell>
        @if (typed.says) {
          <il-text-cell
            label="It names itself, they say"
            for="pact-says-own"
            [mono]="true"
            [readonly]="fixed"
            [value]="typed.saysOwn"
            (typed)="form.put({ saysOwn: $event })"
            (done)="save()"
          />
          <il-text-cell
            label="and expects ours to be"
            for="pact-says-other"
            [mono]="true"
            [readonly]="fixed"
            [value]="typed.saysOther"
            (typed)="form.put({ saysOther: $event })"
            (done)="save()"
          />
          <il-text-cell
            label="Networks behind itself"
            for="pact-says-there"
            [mono]="true"
            [readonly]="fixed"
            [value]="typed.saysThere"
            (typed)="form.put({ saysThere: $event })"
            (done)="save()"
          />
          <il-text-cell
            label="and behind ours"
            for="pact-says-here"
            [mono]="true"
            [readonly]="fixed"
            [value]="typed.saysHere"
            (typed)="form.put({ saysHere: $event })"
            (done)="save()"
          />
          <il-pact-offer
            of="Its exchange"
            for="pact-says-ike"
            [offer]="typed.saysIke"
            [readonly]="fixed"
            (changed)="set({ saysIke: $event })"
          />
          <il-pact-offer
            of="Its packets"
            for="pact-says-esp"
            [offer]="typed.saysEsp"
            [readonly]="fixed"
            (changed)="set({ saysEsp: $event })"
          />
        }
        <il-pact-outlook [pact]="asTyped()" [gateway]="gateway()" />
        @if (pact(); as kept) {
          <il-pact-fares [report]="report()" />
          @if (session.mayChange()) {
            <il-pact-other-side [pact]="kept" />
          }
        }
        @if (other(); as wrong) {
          <p class="cell full flaw" role="alert">{{ wrong }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class PactSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  /** Null: a new one. */
  readonly pact = input.required<Pact | null>();
  /** The gateway that keeps it. */
  readonly gateway = input.required<GatewayRow | undefined>();
  /** What was last told of it. */
  readonly report = input.required<PactReport | undefined>();
  readonly closed = output<void>();
  readonly added = output<string>();
  protected readonly most = MOST_PACT_NAME;
  protected readonly keyLength = KEY_LENGTH;
  /** Whether the key that is typed is shown: one that was made is. */
  protected readonly shown = anewFor(
    () => this.pact()?.id,
    () => false,
  );
  protected readonly keyless = anewFor(
    () => this.text().key,
    () => '',
  );
  private secrets: Readonly<Record<string, string>> = {};
  protected readonly form = new EditForm<Pact, PactText>({
    kept: () => this.pact(),
    idOf: ({ id }) => id,
    textOf: (pact) => {
      const site = this.store.site();
      return pact ? pactTextOf(pact, site ? hereOf(site, pact) : []) : { ...pactTextOf(null), ...this.proposed() };
    },
  });
  private readonly edits = new KeptEdits<Pact>({
    noun: 'pact',
    form: this.form,
    kept: () => this.pact(),
    read: () => this.read(),
    secrets: () => this.secrets,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly segments = computed((): Choice[] =>
    (this.store.site()?.segments ?? []).map(({ id, name, subnet }) => ({ value: id, label: `${name}, ${subnet}` })),
  );
  protected readonly asTyped = computed((): Pact => ({
    ...{ id: this.pact()?.id ?? '' },
    ...pactTyped(this.text(), this.pact()?.key ?? { secret: '' }),
  }));
  protected readonly heading = computed(() => this.pact()?.name ?? 'Another tunnel to a gateway of others');
  protected readonly note = computed(() => {
    const by = this.gateway()?.device.name ?? 'the gateway that routes here';
    return this.pact()
      ? `Kept by ${by}; what is behind the other gateway goes in, or nowhere`
      : `${by} keeps it; what the other has to be told is written once it is added`;
  });

  /** What a new one begins with: names are free to be others. */
  private proposed(): Partial<PactText> {
    const { code } = this.store.site() ?? { code: 'site' };
    return { own: `${code}.gateway.example` };
  }

  private read(): Omit<Pact, 'id'> {
    const { key } = this.text();
    if (key === '') {
      this.secrets = {};
      return pactTyped(this.text(), this.pact()!.key);
    }
    const secret = crypto.randomUUID();
    this.secrets = { [secret]: key };
    return pactTyped(this.text(), { secret });
  }

  protected makeKey(): void {
    this.shown.set(true);
    this.form.put({ key: drawKey(KEY_LENGTH, 'clear', random) });
    void this.save();
  }

  protected set(change: Partial<PactText>): void {
    this.form.put(change);
    void this.save();
  }

  protected save = (): Promise<void> => this.edits.save();

  protected async add(): Promise<void> {
    if (this.text().key === '') return this.keyless.set('Type the key that both know, or have one made.');
    const id = await this.edits.add({});
    if (id !== null) this.added.emit(id);
  }

  protected async remove(): Promise<void> {
    if (await this.edits.remove()) this.closed.emit();
  }
}
