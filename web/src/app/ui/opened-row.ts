import { computed, linkedSignal, type Signal, type WritableSignal } from '@angular/core';

/** What a page's list holds, and what its address asks to be opened. */
export interface OpenedRowOf<Item> {
  readonly rows: () => readonly Item[];
  /** Id of a row to open, from search or a finding. */
  readonly show?: () => string | undefined;
  /** Whether a new one is to be added. */
  readonly add?: () => string | undefined;
}

/**
 * The row of a page's list whose sheet lies open across its foot: opened by a press, by the page's address or as a new one;
 * arrow keys walk on from row to row. Each row carries its id as `data-row`.
 */
export class OpenedRow<Item extends { readonly id: string }> {
  /** Id of the row in the sheet, `new`, or null: nothing is open. */
  readonly id: WritableSignal<string | null> = linkedSignal(() =>
    this.of.add?.() !== undefined ? 'new' : (this.of.show?.() ?? null),
  );
  readonly isNew: Signal<boolean> = computed(() => this.id() === 'new');
  readonly row: Signal<Item | undefined> = computed(() => this.of.rows().find(({ id }) => id === this.id()));

  constructor(private readonly of: OpenedRowOf<Item>) {}

  open(id: string): void {
    this.id.set(id);
  }

  begin(): void {
    this.id.set('new');
  }

  close(): void {
    this.id.set(null);
  }

  /** Walks on while a row is open; the list's table hears the keys. */
  onKey(event: KeyboardEvent): void {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const rows = this.of.rows();
    const at = rows.findIndex(({ id }) => id === this.id());
    const next = by === undefined || at < 0 ? undefined : rows[at + by];
    if (!next) return;
    event.preventDefault();
    this.id.set(next.id);
    const list = event.currentTarget as HTMLElement;
    list.querySelector<HTMLElement>(`[data-row="${next.id}"] :is(a, button)`)?.focus();
  }
}
