import { Component, effect, inject, input } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { SiteStore } from './site-store';

/** Makes the site of the address the one people look at. */
@Component({
  selector: 'il-site-outlet',
  imports: [RouterOutlet],
  template: '<router-outlet />',
  styles: ':host { display: contents; }',
})
export class SiteOutlet {
  private readonly store = inject(SiteStore);
  readonly siteId = input.required<string>();

  constructor() {
    effect(() => this.store.siteId.set(this.siteId()));
  }
}
