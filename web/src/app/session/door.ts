import { Component, input } from '@angular/core';
import { Mark } from '../ui/mark';

/** The frame of what is seen before anybody is in: a sheet on squared paper. */
@Component({
  selector: 'il-door',
  imports: [Mark],
  template: `
    <main>
      <section [class.wide]="wide()">
        <header>
          <il-mark />
          <h1>{{ heading() }}</h1>
        </header>
        <ng-content />
      </section>
    </main>
  `,
  styles: `
    main {
      min-height: 100vh;
      display: grid;
      place-items: center;
      padding: 16px;
      background-image:
        linear-gradient(var(--rule) 1px, transparent 1px), linear-gradient(90deg, var(--rule) 1px, transparent 1px);
      background-size: 44px 44px;
    }
    section {
      width: min(360px, 100%);
      background: var(--sheet);
      border: 1px solid var(--ink);
      border-top-width: 3px;
    }
    section.wide {
      width: min(520px, 100%);
    }
    header {
      display: flex;
      align-items: center;
      gap: 10px;
      padding: 18px 24px 8px;
    }
  `,
})
export class Door {
  readonly heading = input.required<string>();
  readonly wide = input(false);
}
