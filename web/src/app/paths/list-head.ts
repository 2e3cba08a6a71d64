import { Component, input } from '@angular/core';

/** What stands over a list or a table of a page: what it is, a line about it, and what can be done. */
@Component({
  selector: 'il-list-head',
  template: `
    <h3>{{ heading() }}</h3>
    <span class="soft">{{ hint() }}</span>
    <ng-content />
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 10px;
      flex-wrap: wrap;
      padding: 4px 14px;
    }
    .soft {
      flex: 1;
    }
    h3 {
      font-size: 13px;
      font-weight: 600;
      line-height: 18px;
      margin: 0;
    }
    @media (max-width: 720px) {
      .soft {
        order: 3;
        flex-basis: 100%;
      }
      h3 {
        flex: 1;
      }
    }
  `,
})
export class ListHead {
  readonly heading = input.required<string>();
  readonly hint = input.required<string>();
}
