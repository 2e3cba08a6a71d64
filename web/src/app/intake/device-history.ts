import { DatePipe } from '@angular/common';
import { Component, inject, input, resource } from '@angular/core';
import type { DeviceView } from '@iron-lattice/core/intake';
import { IntakeApi } from './intake-api';

/** What happened to a device's place, newest first; a box that replaced another goes on with it. */
@Component({
  selector: 'il-device-history',
  imports: [DatePipe],
  template: `
    <ol>
      @if (history.hasValue()) {
        @for (entry of history.value(); track $index) {
          <li>
            <span class="soft when">{{ entry.at | date: 'd MMM y, HH:mm:ss' }}</span>
            <span>{{ entry.words }}</span>
            <span class="soft">{{ entry.by ?? '' }}</span>
          </li>
        } @empty {
          <li class="soft">Nothing was done to it yet.</li>
        }
      }
    </ol>
  `,
  styles: `
    ol {
      list-style: none;
      margin: 0;
      padding: 6px 14px;
    }
    li {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 14px;
      line-height: 22px;
    }
    .when {
      width: 150px;
    }
  `,
})
export class DeviceHistory {
  private readonly api = inject(IntakeApi);
  readonly device = input.required<DeviceView>();
  protected readonly history = resource({
    params: () => this.device(), // fetched again with the device: whatever happened changed it
    loader: ({ params }) => this.api.history(params.id),
  });
}
