import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output } from '@angular/core';
import type { RingView } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { anewFor } from '../ui/anew-for';
import { TextCell } from '../ui/text-cell';

/** Whose key of a ring a pretend client gives: typed by name, told by id; empty: one that is in no ring. */
@Component({
  selector: 'il-key-of',
  imports: [TextCell],
  template: `
    <il-text-cell
      [label]="label()"
      [for]="for()"
      [hint]="hint()"
      [offers]="names()"
      [value]="name()"
      (typed)="type($event)"
    />
  `,
  styles: ':host { display: contents; }',
})
export class KeyOf {
  private readonly http = inject(HttpClient);
  readonly for = input.required<string>();
  readonly label = input('Key of');
  /** The SSID whose ring it is. */
  readonly ssidId = input.required<string>();
  /** Id of the key; empty: none. */
  readonly keyId = input.required<string>();
  readonly chosen = output<string>();

  private readonly keys = liveFetch({
    of: () => this.ssidId(),
    fetch: (id) => firstValueFrom(this.http.get<RingView>(`/api/rings/${id}`)),
    when: (event) => event.type === 'ring' && event.ssidId === this.ssidId(),
  });
  private readonly right = computed(() =>
    (this.keys.value()?.keys ?? []).filter(({ revokedAt }) => revokedAt === null),
  );
  protected readonly names = computed(() => this.right().map(({ name }) => name));
  private readonly key = computed(() => this.right().find(({ id }) => id === this.keyId()));
  /** What was typed and is no name of a key yet. */
  private readonly half = anewFor(this.ssidId, () => '');
  protected readonly name = computed(() => this.key()?.name ?? this.half());
  protected readonly hint = computed(() =>
    this.key() ? '' : this.half().trim() === '' ? 'Empty: a key that is in no ring' : 'Nobody of that name has one',
  );

  protected type(text: string): void {
    this.half.set(text);
    const name = text.trim().toLowerCase();
    this.chosen.emit(this.right().find((each) => each.name.toLowerCase() === name)?.id ?? '');
  }
}
