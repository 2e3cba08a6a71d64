import { Component, input } from '@angular/core';
import type { ObjectChange } from '@iron-lattice/core/assess';

const NOUNS: Readonly<Record<string, string>> = {
  class: 'access class',
  set: 'named set',
  ssid: 'SSID',
  duty: 'port duty',
  controller: 'where this controller answers',
};

/** Things that are not as they were: each a line, with the fields that differ below it. */
@Component({
  selector: 'il-object-list',
  template: `
    <ul>
      @for (each of objects(); track $index) {
        <li>
          <span [class]="each.what === 'added' ? 'good' : each.what === 'taken away' ? 'bad' : ''">{{
            each.what
          }}</span>
          <span>{{ nouns[each.noun] ?? each.noun }}</span>
          <b>{{ each.name }}</b>
          @for (field of each.fields; track field.name) {
            <span class="field mono"
              >{{ field.name }} <del>{{ field.before || '–' }}</del>&ngsp;<ins>{{ field.after || '–' }}</ins></span
            >
          }
        </li>
      }
    </ul>
  `,
  styles: `
    ul {
      list-style: none;
      margin: 0;
      padding: 2px 14px 6px;
    }
    li {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 8px;
      padding: 2px 0;
    }
    .field {
      flex: 1 0 100%;
      padding-left: 18px;
      font-size: 12px;
      overflow-wrap: anywhere;
    }
    del {
      color: var(--bad);
    }
    ins {
      color: var(--good);
      text-decoration: none;
    }
  `,
})
export class ObjectList {
  readonly objects = input.required<readonly ObjectChange[]>();
  protected readonly nouns = NOUNS;
}
