import { Component, computed, inject, input, output } from '@angular/core';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { Cell } from '../ui/cell';
import { RulesFacts } from './rules-facts';

/** A cell in which ends of traffic are typed, or picked one by one. */
@Component({
  selector: 'il-ends-cell',
  imports: [MatFormFieldModule, MatInputModule, Cell],
  template: `
    <il-cell [label]="label()" [for]="for()" [hint]="hint()" [flaw]="flaw()" size="wide">
      <div class="line">
        <mat-form-field class="mono-field">
          <input
            matInput
            autocomplete="off"
            [id]="for()"
            [readonly]="readonly()"
            [value]="value()"
            (change)="typed.emit($any($event.target).value)"
          />
        </mat-form-field>
        @if (!readonly()) {
          <select [attr.aria-label]="'Add to ' + label().toLowerCase()" (change)="pick($any($event.target))">
            <option value="">Add…</option>
            @for (group of groups(); track group.title) {
              <optgroup [label]="group.title">
                @for (option of group.options; track option) {
                  <option>{{ option }}</option>
                }
              </optgroup>
            }
          </select>
        }
      </div>
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    .line {
      display: flex;
      gap: 6px;
      align-items: center;
    }
    select {
      width: 74px;
      height: 28px;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
      font: inherit;
      flex: none;
    }
  `,
})
export class EndsCell {
  private readonly facts = inject(RulesFacts);
  readonly label = input.required<string>();
  readonly for = input.required<string>();
  readonly value = input.required<string>();
  readonly readonly = input(false);
  readonly hint = input<string | null>('');
  readonly flaw = input<string | null | undefined>('');
  readonly typed = output<string>();

  protected readonly groups = computed(() => {
    const { segment, ssid, class: classes, set, device } = this.facts.known();
    const named = (kind: string, names: readonly string[]): string[] =>
      names.map((name) => (name.includes(',') ? `"${kind} ${name}"` : `${kind} ${name}`));
    return [
      { title: 'Anywhere', options: ['any', 'internet', 'private', 'gateway', 'controller'] },
      { title: 'Segments', options: named('segment', segment) },
      { title: 'SSIDs', options: named('ssid', ssid) },
      { title: 'Access classes', options: named('class', classes) },
      { title: 'Named sets', options: named('set', set) },
      { title: 'Devices', options: named('device', device) },
    ].filter(({ options }) => options.length > 0);
  });

  protected pick(select: HTMLSelectElement): void {
    const added = select.value;
    select.value = '';
    if (added === '') return;
    const now = this.value().trim();
    this.typed.emit(now === '' || now === 'any' ? added : `${now}, ${added}`);
  }
}
