import { Component, computed, inject } from '@angular/core';
import { DirectorySheet } from './directory/directory-sheet';
import { PasswordsSheet } from './passwords-sheet';
import { RemovedSheet } from './removed-sheet';
import { UserListSheet } from './user-list-sheet';
import { UserSheet } from './user-sheet';
import { UsersStore } from './users-store';

/** The sheet that is open over users. */
@Component({
  selector: 'il-users-foot',
  imports: [DirectorySheet, PasswordsSheet, RemovedSheet, UserListSheet, UserSheet],
  template: `
    @switch (store.sheet()?.of) {
      @case ('new') {
        <il-user-sheet [user]="null" (closed)="store.sheet.set(null)" />
      }
      @case ('user') {
        @if (store.user(); as user) {
          <il-user-sheet [user]="user" (closed)="store.sheet.set(null)" />
        }
      }
      @case ('directory') {
        <il-directory-sheet (closed)="store.sheet.set(null)" />
      }
      @case ('removed') {
        <il-removed-sheet (closed)="store.sheet.set(null)" />
      }
      @case ('list') {
        <il-user-list-sheet (closed)="store.sheet.set(null)" />
      }
      @case ('passwords') {
        <il-passwords-sheet [users]="passwords()" (closed)="store.sheet.set(null)" />
      }
    }
  `,
  styles:
    ':host, il-directory-sheet, il-user-sheet, il-user-list-sheet, il-passwords-sheet, il-removed-sheet { display: contents; }',
})
export class UsersFoot {
  protected readonly store = inject(UsersStore);
  protected readonly passwords = computed(() => {
    const sheet = this.store.sheet();
    return sheet?.of === 'passwords' ? sheet.users : [];
  });
}
