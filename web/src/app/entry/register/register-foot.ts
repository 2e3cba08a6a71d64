import { Component, inject } from '@angular/core';
import { ClientSheet } from './client-sheet';
import { ForgetSheet } from './forget-sheet';
import { KeepingSheet } from './keeping-sheet';
import { RegisterStore } from './register-store';

/** The sheet that is open over the register. */
@Component({
  selector: 'il-register-foot',
  imports: [ClientSheet, ForgetSheet, KeepingSheet],
  template: `
    @if (store.sheet(); as sheet) {
      @switch (sheet.of) {
        @case ('client') {
          @if (store.client(); as client) {
            <il-client-sheet [client]="client" (closed)="store.sheet.set(null)" />
          }
        }
        @case ('keeping') {
          <il-keeping-sheet (closed)="store.sheet.set(null)" />
        }
        @case ('forget') {
          <il-forget-sheet [clients]="sheet.clients" (closed)="store.sheet.set(null)" />
        }
      }
    }
  `,
  styles: ':host, il-client-sheet, il-keeping-sheet, il-forget-sheet { display: contents; }',
})
export class RegisterFoot {
  protected readonly store = inject(RegisterStore);
}
