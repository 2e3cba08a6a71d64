import { Component, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { PreviewColumn } from '../ui/list-preview';
import { Sheet } from '../ui/sheet';
import { ListBody, type ListWays } from './list-body';
import type { Taking } from './list-taking';

/** A sheet through which a list comes in. How far it is while it is taken: slot `going`. */
@Component({
  selector: 'il-list-sheet',
  imports: [MatButtonModule, ListBody, Sheet],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" (closed)="closed.emit()">
      @if (taking().offer(); as offer) {
        <button actions mat-flat-button [disabled]="taking().busy()" (click)="taking().take()">{{ offer }}</button>
      }
      <il-list-body [taking]="taking()" [columns]="columns()" [ways]="ways()">
        <ng-container ngProjectAs="[before]"><ng-content /></ng-container>
        <ng-content select="[going]" />
      </il-list-body>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class ListSheet {
  readonly heading = input.required<string>();
  readonly note = input('');
  readonly taking = input.required<Taking>();
  readonly columns = input.required<readonly PreviewColumn[]>();
  readonly ways = input.required<ListWays>();
  readonly closed = output<void>();
}
