import { Component, inject } from '@angular/core';
import { KeyListSheet } from './key-list-sheet';
import { KeySheet } from './key-sheet';
import { ManyKeysSheet } from './many-keys-sheet';
import { RingStore } from './ring-store';

/** The sheet that is open over keys of a ring. */
@Component({
  selector: 'il-keys-foot',
  imports: [KeyListSheet, KeySheet, ManyKeysSheet],
  template: `
    @switch (store.sheet()?.of) {
      @case ('new') {
        <il-key-sheet [key]="null" (closed)="store.sheet.set(null)" />
      }
      @case ('key') {
        @if (store.key(); as key) {
          <il-key-sheet [key]="key" (closed)="store.sheet.set(null)" />
        }
      }
      @case ('many') {
        <il-many-keys-sheet (closed)="store.sheet.set(null)" />
      }
      @case ('list') {
        <il-key-list-sheet (closed)="store.sheet.set(null)" />
      }
    }
  `,
  styles: ':host, il-key-sheet, il-many-keys-sheet, il-key-list-sheet { display: contents; }',
})
export class KeysFoot {
  protected readonly store = inject(RingStore);
}
