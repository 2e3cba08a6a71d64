import { Component, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { Cell } from '../ui/cell';
import { FileDrop } from '../ui/file-drop';
import type { PreviewColumn } from '../ui/list-preview';
import { ListSeen } from '../ui/list-seen';
import type { Taking } from './list-taking';

/** How people bring a list. */
export interface ListWays {
  /** What is in it, in a line. */
  readonly label: string;
  readonly hint: string;
  /** Where there is one to begin with, and what it is. */
  readonly sample: { readonly href: string; readonly label: string };
  /** Where it can be typed or pasted as well: what that is called, and a row or two as an example. */
  readonly typed?: { readonly label: string; readonly example: string };
}

/**
 * A list of anything, dropped, chosen, typed or pasted, and looked at row by row before any of it is taken. The press that takes
 * it stands in the title row of its sheet, or beside what it comes to (the content). What else has to be said first: slot `before`.
 */
@Component({
  selector: 'il-list-body',
  imports: [MatButtonModule, Cell, FileDrop, ListSeen],
  template: `
    @if (taking().seen(); as seen) {
      <il-list-seen
        [rows]="seen.rows"
        [columns]="columns()"
        [flaws]="seen.flaws"
        [problem]="taking().problem()?.message"
        (another)="taking().aside()"
      >
        <span status>{{ taking().summary() }}</span>
        <ng-content />
      </il-list-seen>
    } @else {
      <div class="cells">
        <ng-content select="[before]" />
        @if (ways().typed; as typed) {
          <il-cell [label]="typed.label" for="list-rows" size="wide">
            <textarea
              #rows
              [value]="taking().typed()"
              (input)="taking().typed.set(rows.value)"
              id="list-rows"
              class="mono"
              rows="5"
              spellcheck="false"
              [placeholder]="typed.example"
            ></textarea>
            <button
              mat-stroked-button
              [disabled]="taking().busy() || taking().typed().trim() === ''"
              (click)="taking().look('Typed list', taking().typed())"
            >
              Look at it
            </button>
          </il-cell>
        }
        <il-cell [label]="ways().label" [size]="ways().typed ? 'plain' : 'wide'" [flaw]="taking().problem()?.message">
          <il-file-drop
            label="Choose a file, or drop it here"
            accept=".csv,.txt,.tsv,.xlsx"
            [hint]="ways().hint"
            (file)="taking().look($event.name, $event)"
          />
          <p class="hint">
            <a [href]="ways().sample.href" download>{{ ways().sample.label }}</a>
          </p>
        </il-cell>
      </div>
    }
  `,
  styles: `
    :host {
      display: block;
    }
    textarea {
      width: 100%;
      box-sizing: border-box;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
      padding: 6px 8px;
      resize: vertical;
      margin-bottom: 4px;
    }
  `,
})
export class ListBody {
  readonly taking = input.required<Taking>();
  readonly columns = input.required<readonly PreviewColumn[]>();
  readonly ways = input.required<ListWays>();
}
