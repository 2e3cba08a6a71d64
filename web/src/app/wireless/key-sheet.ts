import { Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { ringKeyFlaws, type RingKeyFields, type RingKeyView } from '@iron-lattice/core/wireless';
import { Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { printSlips } from '../ui/slips';
import { keySlip } from './key-slips';
import { drawn, fieldsOf, textOf, type KeyText } from './key-text';
import { RingStore } from './ring-store';

/** Stands before the name of a class among segments; no segment’s name begins so, since none begins with a blank. */
const CLASS = ' class ';

/** Names in their order, with the one that is chosen, whether it is there or not. */
function namesWith(names: readonly string[], chosen: string | null): string[] {
  const there = chosen === null || names.some((name) => name.toLowerCase() === chosen.toLowerCase());
  return [...names, ...(there ? [] : [chosen])].sort();
}

/** A key of a ring, new or there already. */
@Component({
  selector: 'il-key-sheet',
  imports: [FormsModule, MatButtonModule, Cell, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet
      [focusFirst]="key() === null"
      [heading]="key()?.name ?? 'New key'"
      [note]="note()"
      (closed)="closed.emit()"
    >
      @if (session.mayChange() && key() && key()!.revokedAt === null) {
        <button actions mat-stroked-button (click)="store.revoke([key()!.id])">Take it back</button>
      }
      @if (session.mayChange() && key()?.revokedAt) {
        <button actions mat-stroked-button (click)="store.restore([key()!.id])">Bring it back</button>
      }
      @if (session.mayChange() && !key()?.revokedAt) {
        <button actions mat-flat-button type="submit" form="key-fields" [disabled]="form.busy() || !form.differs()">
          {{ key() ? 'Change it now' : 'Make the key' }}
        </button>
      }
      <form id="key-fields" (ngSubmit)="keep()">
        <div class="cells">
          <il-text-cell
            label="Whom it is for"
            for="key-name"
            [flaw]="problem()?.of('name')"
            [readonly]="locked()"
            [value]="text().name"
            (typed)="form.put({ name: $event })"
          />
          <il-text-cell
            label="Key"
            for="key-key"
            [mono]="true"
            [hint]="key() ? 'Empty keeps it' : '8 to 63 characters'"
            [example]="key() ? 'kept' : ''"
            [flaw]="problem()?.of('key')"
            [readonly]="locked()"
            [value]="text().key"
            (typed)="form.put({ key: $event })"
          >
            @if (!locked()) {
              <button beside mat-button type="button" (click)="form.put({ key: draw() })">Draw one</button>
            }
          </il-text-cell>
          @if (key() && session.mayChange()) {
            <il-cell label="To hand over" size="wide" hint="Showing a key is noted in the journal.">
              @if (shown(); as itself) {
                <code class="mono">{{ itself }}</code>
              }
              <button mat-button type="button" (click)="show()">{{ shown() ? 'Hide' : 'Show' }}</button>
              <button mat-button type="button" (click)="copy()">Copy</button>
              <button mat-button type="button" (click)="mail()">Mail</button>
              <button mat-button type="button" (click)="print()">Print slip</button>
            </il-cell>
          }
          <il-choice-cell
            label="It leads to"
            for="key-segment"
            [hint]="
              text().accessClass === null ? '' : 'The class says segment, rules and limits, at each site by its own'
            "
            [options]="leads()"
            [value]="led()"
            [disabled]="locked()"
            [flaw]="problem()?.of('accessClass')"
            (chosen)="lead($event)"
          />
          <il-text-cell
            label="Devices at most"
            for="key-most"
            hint="Empty: any number"
            [flaw]="problem()?.of('most')"
            [readonly]="locked()"
            [value]="text().most"
            (typed)="form.put({ most: $event })"
          />
          <il-text-cell
            label="Right from"
            for="key-from"
            hint="A day, or a day and a time; empty: at once"
            [mono]="true"
            [flaw]="problem()?.of('from')"
            [readonly]="locked()"
            [value]="text().from"
            (typed)="form.put({ from: $event })"
          />
          <il-text-cell
            label="Right until"
            for="key-until"
            hint="2026-12-31, or 2026-12-31 11:00, by the site’s clock"
            [mono]="true"
            [flaw]="problem()?.of('until')"
            [readonly]="locked()"
            [value]="text().until"
            (typed)="form.put({ until: $event })"
          />
          <il-text-cell
            label="Bound to MAC addresses"
            for="key-macs"
            size="wide"
            hint="Empty: any device. Phones may show another address to each network."
            [mono]="true"
            [flaw]="problem()?.of('macs')"
            [readonly]="locked()"
            [value]="text().macs"
            (typed)="form.put({ macs: $event })"
          />
          <il-text-cell
            label="Note"
            for="key-note"
            size="wide"
            [flaw]="problem()?.of('note')"
            [readonly]="locked()"
            [value]="text().note"
            (typed)="form.put({ note: $event })"
          />
          @if (key(); as key) {
            <il-cell label="Devices that gave it" size="wide">
              @if (key.devices.length === 0) {
                <div class="value soft">None yet.</div>
              } @else {
                <div class="value mono">
                  @for (mac of key.devices; track mac) {
                    <span [class.good]="key.now.includes(mac)"
                      >{{ mac }}{{ key.now.includes(mac) ? ' now' : '' }}
                    </span>
                  }
                </div>
                @if (!locked()) {
                  <button mat-button type="button" (click)="store.forgetDevices(key.id)">
                    Forget them: others may have it
                  </button>
                }
              }
            </il-cell>
          }
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
    code {
      display: block;
      font-size: 15px;
      overflow-wrap: anywhere;
    }
  `,
})
export class KeySheet {
  protected readonly store = inject(RingStore);
  private readonly site = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  /** Null for a new one. */
  readonly key = input.required<RingKeyView | null>();
  readonly closed = output<void>();

  protected readonly form = new EditForm<RingKeyFields & { readonly id: string }, KeyText>({
    kept: () => this.key(),
    idOf: ({ id }) => id,
    textOf,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(['name', 'key', 'most', 'from', 'until', 'macs', 'note']));
  protected readonly draw = drawn;
  /** The key itself, once somebody wanted to see it. */
  protected readonly shown = anewFor<string | null>(
    () => this.key()?.id,
    () => null,
  );
  protected readonly locked = computed(() => !this.session.mayChange() || Boolean(this.key()?.revokedAt));
  protected readonly note = computed(() => {
    const key = this.key();
    if (!key) return `Of ${this.store.ssid()?.name}. It acts at once, wherever that is sent.`;
    const state = this.store.stateOf(key);
    const by = `made by ${key.by}`;
    return state === 'right'
      ? `Right now, ${by}. ${counted(key.now.length, 'device')} on the air with it.`
      : `${by}: ${state}.`;
  });
  /** Where the key leads, as it is chosen. */
  protected readonly led = computed(() => {
    const { segment, accessClass } = this.text();
    return accessClass === null ? segment : `${CLASS}${accessClass}`;
  });
  protected readonly leads = computed((): Choice[] => {
    const ssid = this.store.ssid();
    const { segment, accessClass } = this.text();
    return [
      { value: null, label: `${ssid?.segment}, the SSID’s own` },
      ...namesWith(ssid?.ring ?? [], segment).map((name) => ({ value: name, label: name })),
      ...namesWith(this.store.classes(), accessClass).map((name) => ({
        value: `${CLASS}${name}`,
        label: `the class ${name}`,
      })),
    ];
  });

  protected lead(chosen: string | null): void {
    const isClass = chosen?.startsWith(CLASS) ?? false;
    this.form.put({ segment: isClass ? null : chosen, accessClass: isClass ? chosen!.slice(CLASS.length) : null });
  }

  protected async keep(): Promise<void> {
    const [key, text] = [this.key(), this.text()];
    const fields = fieldsOf(text);
    const flaws = ringKeyFlaws(fields, key && text.key === '' ? undefined : text.key);
    if (flaws.length > 0) return this.problem.set(new Problem('ring.refused', flaws[0]!.message, flaws));
    await this.form.send(async () => {
      if (key) {
        const { from, to } = this.form.change<RingKeyFields>(fields, (each) => each);
        return this.store.change(key.id, from, { ...to, ...(text.key === '' ? {} : { key: text.key }) });
      }
      const [id] = await this.store.add([{ ...fields, key: text.key }]);
      return this.store.sheet.set({ of: 'key', id: id! });
    });
  }

  private async itself(): Promise<string> {
    const { id } = this.key()!;
    return this.shown() ?? (await this.store.reveal([id]))[id]!;
  }

  protected async show(): Promise<void> {
    if (this.shown() !== null) return this.shown.set(null);
    await this.site.attempt(async () => this.shown.set(await this.itself()));
  }

  protected async copy(): Promise<void> {
    await this.site.attempt(async () => {
      await navigator.clipboard.writeText(await this.itself());
      this.site.say(`The key of ${this.key()!.name} is on the clipboard.`);
    });
  }

  /** Opens a mail with the key in the program that this machine has for mail. */
  protected async mail(): Promise<void> {
    await this.site.attempt(async () => {
      const { name } = this.store.ssid()!;
      const { until, name: whose } = this.key()!;
      const lines = [`Wi-Fi: ${name}`, `Key: ${await this.itself()}`, ...(until ? [`Right until ${until}`] : [])];
      const subject = encodeURIComponent(`Wi-Fi key for ${whose}`);
      location.href = `mailto:?subject=${subject}&body=${encodeURIComponent(lines.join('\r\n'))}`;
    });
  }

  protected async print(): Promise<void> {
    await this.site.attempt(async () => {
      await printSlips([keySlip(this.key()!, await this.itself(), this.store.ssid()!)]);
    });
  }
}
