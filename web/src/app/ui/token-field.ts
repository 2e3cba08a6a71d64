import { Component, ElementRef, computed, inject, input, output, signal, viewChild } from '@angular/core';
import {
  MatAutocompleteModule,
  MatAutocompleteTrigger,
  type MatAutocompleteSelectedEvent,
} from '@angular/material/autocomplete';
import { MatChipsModule, type MatChipEditedEvent } from '@angular/material/chips';
import type { SegmentMark } from '@iron-lattice/core/lattice';
import { SegmentTag } from './segment-tag';

/** One thing in a field that holds several. */
export interface Token {
  /** As it is written. */
  readonly text: string;
  readonly label: string;
  /** What it is, in a word; empty where the label says it. */
  readonly kind: string;
  readonly mark?: SegmentMark | undefined;
  /** Whether it is none that is known or can be read. */
  readonly bad?: boolean;
}

/** How a field's text is tokens, and which others there are. */
export interface TokenSource {
  readonly read: (text: string) => readonly Token[];
  readonly join: (tokens: readonly Token[]) => string;
  readonly options: readonly Token[];
  /** What parts tokens where they are typed: a key that ends one. */
  readonly separator: string;
  /** The text of a token that means everything, and goes when another comes. */
  readonly all?: string;
}

/** A press of a button takes no longer. */
const STILL_MS = 400;
/** Most options that are offered at once. */
const MOST_OFFERED = 40;

/**
 * Several things in one field: each a token with its mark and kind, found as one types. By keyboard: Enter or the separator
 * ends one, arrows walk over them, Enter edits and Delete takes out. Text with several is parted when it is pasted.
 */
@Component({
  selector: 'il-token-field',
  imports: [MatAutocompleteModule, MatChipsModule, SegmentTag],
  template: `
    <mat-chip-grid #grid [disabled]="readonly()">
      @for (token of tokens(); track $index) {
        <mat-chip-row
          [class.bad]="token.bad"
          [editable]="!readonly()"
          [removable]="!readonly()"
          [attr.title]="token.bad ? 'Nothing of that name, and no address' : token.text"
          (edited)="edit($index, $event)"
          (removed)="put(without($index))"
        >
          @if (token.mark; as mark) {
            <il-segment-tag [mark]="mark" />
          }
          @if (token.kind) {
            <span class="kind">{{ token.kind }}&ngsp;</span>
          }
          {{ token.label }}
          @if (!readonly()) {
            <button matChipRemove [attr.aria-label]="'Take out ' + token.label">×</button>
          }
        </mat-chip-row>
      }
    </mat-chip-grid>
    <input
      #box
      spellcheck="false"
      autocomplete="off"
      [id]="for()"
      [attr.aria-label]="label()"
      [placeholder]="tokens().length === 0 ? placeholder() : ''"
      [readonly]="readonly()"
      [matChipInputFor]="grid"
      [matAutocomplete]="offered"
      [matAutocompleteDisabled]="readonly()"
      (input)="type(box.value)"
      (keydown)="onKey($event)"
      (paste)="onPaste($event)"
      (blur)="leave()"
    />
    <mat-autocomplete
      #offered="matAutocomplete"
      panelWidth="min(320px, 94vw)"
      hideSingleSelectionIndicator
      (optionSelected)="choose($event)"
    >
      @for (option of options(); track option.text) {
        <mat-option [value]="option" (mousedown)="$event.preventDefault()">
          @if (option.mark; as mark) {
            <il-segment-tag [mark]="mark" />
          }
          {{ option.label }} <span class="soft">{{ option.kind }}</span>
        </mat-option>
      }
    </mat-autocomplete>
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      border: 1px solid var(--strong);
      background: var(--sheet);
      box-sizing: border-box;
      padding: 0 2px;
      min-width: 0;
      overflow: hidden;
    }
    :host:focus-within {
      outline: 2px solid var(--iron);
      outline-offset: -1px;
    }
    input {
      all: unset;
      flex: 1 1 24px;
      min-width: 24px;
      height: 26px;
      padding: 0 2px 0 5px;
      font:
        400 12px 'JetBrains Mono',
        monospace;
    }
    input::placeholder {
      color: var(--soft);
    }
    il-segment-tag {
      display: inline-flex;
      margin-right: 4px;
      vertical-align: middle;
    }
    .kind {
      color: var(--soft);
    }
  `,
  host: { '(click)': 'focus($event)' },
})
export class TokenField {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly box = viewChild.required<ElementRef<HTMLInputElement>>('box');
  private readonly trigger = viewChild.required(MatAutocompleteTrigger);
  readonly label = input.required<string>();
  /** Id of the field. */
  readonly for = input.required<string>();
  readonly value = input.required<string>();
  readonly source = input.required<TokenSource>();
  readonly placeholder = input('');
  readonly readonly = input(false);
  /** Whether there may be one token alone: another takes its place. */
  readonly single = input(false);
  /** Takes what was typed before it becomes tokens, where it is more than that. @returns whether it was taken. */
  readonly takes = input<(text: string) => boolean>(() => false);
  /** The text of all tokens. */
  readonly typed = output<string>();
  /** What is being typed and is no token yet. */
  readonly typing = output<string>();
  /** Enter was pressed where nothing was typed. */
  readonly done = output<void>();

  protected readonly half = signal('');
  protected readonly tokens = computed(() => (this.value().trim() === '' ? [] : this.source().read(this.value())));
  protected readonly options = computed((): readonly Token[] => {
    const words = this.half().trim().toLowerCase();
    const there = new Set(this.tokens().map(({ text }) => text));
    const fits = ({ label, text, kind }: Token): boolean =>
      !there.has(text) && (words === '' || [label, text, kind].some((each) => each.toLowerCase().includes(words)));
    const found = this.source().options.filter(fits);
    const first = ({ label }: Token): number => (label.toLowerCase().startsWith(words) ? 0 : 1);
    return [...found].sort((a, b) => first(a) - first(b)).slice(0, MOST_OFFERED);
  });

  protected type(text: string): void {
    this.half.set(text);
    this.typing.emit(text);
  }

  protected without(index: number): readonly Token[] {
    return this.tokens().filter((_, i) => i !== index);
  }

  protected put(tokens: readonly Token[]): void {
    const { all, join } = this.source();
    const meant = tokens.length > 1 ? tokens.filter(({ text }) => text !== all) : tokens;
    this.typed.emit(join(this.single() ? meant.slice(-1) : meant));
  }

  protected edit(index: number, { value }: MatChipEditedEvent): void {
    const read = value.trim() === '' ? [] : this.source().read(value);
    this.put(this.tokens().flatMap((token, i) => (i === index ? read : [token])));
  }

  protected choose({ option }: MatAutocompleteSelectedEvent): void {
    const chosen = option.value as Token;
    option.deselect();
    this.clear();
    this.put([...this.tokens(), chosen]);
  }

  protected onKey(event: KeyboardEvent): void {
    const ends = event.key === 'Enter' || event.key === this.source().separator;
    if (!ends || event.isComposing) return;
    if (event.key === 'Enter' && this.trigger().activeOption) return;
    // A name with a separator in it stands in quotes.
    if (event.key !== 'Enter' && (this.half().match(/"/g) ?? []).length % 2 === 1) return;
    event.preventDefault();
    if (this.half().trim() === '' && event.key === 'Enter') return this.done.emit();
    this.take();
    this.trigger().closePanel();
  }

  protected onPaste(event: ClipboardEvent): void {
    const text = event.clipboardData?.getData('text') ?? '';
    if (this.readonly() || this.source().read(text).length < 2) return;
    event.preventDefault();
    this.take(this.half() + text);
  }

  /** What stands there when somebody goes on is meant. Options keep the focus here while one is pressed. */
  protected leave(): void {
    if (this.half().trim() === '') return;
    this.holdStill();
    this.take();
    this.trigger().closePanel();
  }

  protected focus(event: Event): void {
    if (event.target === event.currentTarget) this.box().nativeElement.focus();
  }

  private take(typed = this.box().nativeElement.value): void {
    const text = typed.trim();
    if (text === '') return;
    this.clear();
    if (this.takes()(text)) return;
    this.put([...this.tokens(), ...this.source().read(text)]);
  }

  /** Somebody may be pressing a button at this moment: it must not move away from under them as a token takes more room. */
  private holdStill(): void {
    const { style, offsetHeight } = this.host;
    if (style.height !== '') return;
    style.height = `${offsetHeight}px`;
    setTimeout(() => (style.height = ''), STILL_MS);
  }

  private clear(): void {
    this.box().nativeElement.value = '';
    this.type('');
  }
}
