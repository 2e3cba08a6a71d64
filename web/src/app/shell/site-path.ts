import { Component, computed, inject, signal, viewChild, type ElementRef } from '@angular/core';
import {
  MatAutocompleteModule,
  MatAutocompleteOrigin,
  type MatAutocompleteSelectedEvent,
} from '@angular/material/autocomplete';
import { Router, RouterLink } from '@angular/router';
import { EstateStore } from './estate-store';
import { SiteStore } from './site-store';

/** Estate ▸ site as a path that can be typed into. */
@Component({
  selector: 'il-site-path',
  hostDirectives: [MatAutocompleteOrigin],
  imports: [MatAutocompleteModule, RouterLink],
  template: `
    <a routerLink="/" class="soft">{{ estate.estate()?.name }}</a>
    <span class="soft" aria-hidden="true">▸</span>
    <input
      #box
      aria-label="Site"
      placeholder="All sites"
      [value]="here()"
      [matAutocomplete]="sites"
      [matAutocompleteConnectedTo]="origin"
      (focus)="box.select(); typed.set('')"
      (input)="typed.set(box.value)"
      (blur)="box.value = here()"
      spellcheck="false"
    />
    <mat-autocomplete panelWidth="250px" #sites="matAutocomplete" autoActiveFirstOption (optionSelected)="go($event)">
      @for (site of offered(); track site.id) {
        <mat-option [value]="site.name">{{ site.name }}</mat-option>
      }
    </mat-autocomplete>
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 7px;
      height: 30px;
      border: 1px solid var(--rule);
      background: var(--sheet);
      padding: 0 10px;
      width: 250px;
    }
    a {
      text-decoration: none;
      white-space: nowrap;
    }
    input {
      all: unset;
      font-weight: 600;
      min-width: 0;
      flex: 1;
    }
    :host:focus-within {
      outline: 2px solid var(--iron);
    }
    @media (max-width: 720px) {
      :host {
        width: auto;
        flex: 1 1 110px;
        min-width: 0;
      }
      a,
      span {
        display: none;
      }
    }
  `,
})
export class SitePath {
  /** The whole frame is what the list hangs on. */
  protected readonly origin = inject(MatAutocompleteOrigin);
  private readonly router = inject(Router);
  private readonly site = inject(SiteStore);
  protected readonly estate = inject(EstateStore);
  private readonly box = viewChild.required<ElementRef<HTMLInputElement>>('box');
  protected readonly typed = signal('');

  protected readonly here = computed(() => {
    const id = this.site.siteId();
    return this.estate.estate()?.sites.find((site) => site.id === id)?.name ?? '';
  });
  protected readonly offered = computed(() => {
    const typed = this.typed().toLowerCase();
    return (this.estate.estate()?.sites ?? []).filter((site) => site.name.toLowerCase().includes(typed));
  });

  protected async go(event: MatAutocompleteSelectedEvent): Promise<void> {
    const site = this.offered().find((each) => each.name === event.option.value);
    const stage = this.router.url.split(/[/?]/)[3] ?? 'intake';
    this.box().nativeElement.blur();
    if (site) await this.router.navigate(['/sites', site.id, stage]);
  }
}
