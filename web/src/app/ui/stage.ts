import { Component, input } from '@angular/core';

/** The frame of a stage: heading and actions, the work area, and whatever sheet lies across its foot. */
@Component({
  selector: 'il-stage',
  template: `
    <header>
      <h1>{{ heading() }}</h1>
      <span class="soft note">{{ note() }}</span>
      <span class="grow"></span>
      <ng-content select="[actions]" />
    </header>
    <div class="work"><ng-content /></div>
    <ng-content select="[foot]" />
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
      min-height: 0;
    }
    header {
      display: flex;
      align-items: center;
      flex-wrap: wrap;
      gap: 8px 12px;
      padding: 9px 14px;
      flex: none;
    }
    .work {
      flex: 1;
      overflow: auto;
      min-height: 0;
    }
    @media (max-width: 720px) {
      header {
        padding: 8px 12px;
      }
      .note {
        display: none;
      }
    }
  `,
})
export class Stage {
  readonly heading = input.required<string>();
  readonly note = input('');
}
