import { HttpClient } from '@angular/common/http';
import { Component, ElementRef, HostListener, computed, inject, signal, viewChild } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import {
  MatAutocompleteModule,
  MatAutocompleteOrigin,
  MatAutocompleteTrigger,
  type MatAutocompleteSelectedEvent,
} from '@angular/material/autocomplete';
import { Router } from '@angular/router';
import type { SearchHit } from '@iron-lattice/core/base';
import { Subject, catchError, debounceTime, map, of, switchMap } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { PHONE } from '../ui/table-view';
import { SiteStore } from './site-store';
import { estateStages, siteStages, STAGES, type Stage } from './stage';
import { Theme } from './theme';

interface Action {
  readonly title: string;
  readonly detail: string;
  readonly act: () => unknown;
}

/** One field that finds any object and does any action (Ctrl/⌘ K). */
@Component({
  selector: 'il-search-or-do',
  hostDirectives: [MatAutocompleteOrigin],
  imports: [MatAutocompleteModule],
  template: `
    <input
      #box
      aria-label="Find anything, or do something"
      [placeholder]="placeholder"
      [matAutocomplete]="hits"
      [matAutocompleteConnectedTo]="origin"
      (input)="type(box.value)"
      (focus)="type(box.value)"
      spellcheck="false"
    />
    <kbd aria-hidden="true">Ctrl K</kbd>
    <mat-autocomplete
      #hits="matAutocomplete"
      panelWidth="min(400px, 94vw)"
      autoActiveFirstOption
      hideSingleSelectionIndicator
      [displayWith]="nothing"
      (optionSelected)="choose($event)"
    >
      @for (item of items(); track $index) {
        <mat-option [value]="item">
          {{ item.title }} <span class="soft">{{ item.detail }}</span>
        </mat-option>
      }
    </mat-autocomplete>
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      height: 30px;
      border: 1px solid var(--rule);
      background: var(--sheet);
      padding: 0 8px 0 10px;
      flex: 0 1 400px;
      min-width: 0;
    }
    input {
      all: unset;
      flex: 1;
      min-width: 0;
    }
    input::placeholder {
      color: var(--soft);
    }
    kbd {
      border: 1px solid var(--rule);
      padding: 0 5px;
      font:
        400 11px/16px 'JetBrains Mono',
        monospace;
      color: var(--soft);
      white-space: nowrap;
    }
    :host:focus-within {
      outline: 2px solid var(--iron);
    }
    @media (max-width: 720px) {
      :host {
        flex: 0 0 64px;
      }
      /* While somebody types it has the whole bar, and its list the width of the page. */
      :host:focus-within {
        position: absolute;
        inset: 8px 10px auto;
        z-index: 5;
      }
      kbd {
        display: none;
      }
    }
  `,
})
export class SearchOrDo {
  protected readonly placeholder = PHONE.matches ? 'Find…' : 'Find or do…';
  /** The whole frame is what the list hangs on. */
  protected readonly origin = inject(MatAutocompleteOrigin);
  private readonly http = inject(HttpClient);
  private readonly router = inject(Router);
  private readonly stages = inject(STAGES);
  private readonly site = inject(SiteStore);
  private readonly session = inject(SessionStore);
  private readonly theme = inject(Theme);
  private readonly box = viewChild.required<ElementRef<HTMLInputElement>>('box');
  private readonly trigger = viewChild.required(MatAutocompleteTrigger);
  private readonly wanted = new Subject<string>();
  private readonly typed = signal('');
  /** Hits, and the words they are hits of: what is typed runs ahead of them. */
  private readonly found = signal<{ readonly of: string; readonly hits: readonly SearchHit[] }>({ of: '', hits: [] });
  /** Enter was pressed before the hits of what is typed were there. */
  private hasty = false;

  private readonly actions = computed((): Action[] => {
    const siteId = this.site.siteId();
    const go =
      (...path: unknown[]) =>
      () =>
        this.router.navigate(path);
    const ofEstate = estateStages(this.stages);
    const everywhere: Action[] = [
      ...ofEstate.map(({ path, name, title = name }) => ({
        title,
        detail: 'Go',
        act: go(`/${path}`),
      })),
      { title: 'Change theme', detail: 'Light or dark', act: () => this.theme.toggle() },
    ];
    const begun = ({ add, path }: Stage, ...under: string[]): Action[] =>
      add
        ? [{ title: add, detail: 'Do', act: () => this.router.navigate([...under, path], { queryParams: { add: 1 } }) }]
        : [];
    if (!siteId)
      return this.session.mayChange() ? [...ofEstate.flatMap((stage) => begun(stage, '/')), ...everywhere] : everywhere;
    const ofSite = siteStages(this.stages);
    const stages = ofSite.map(({ name, path }) => ({ title: name, detail: 'Go', act: go('/sites', siteId, path) }));
    if (!this.session.mayChange()) return [...stages, ...everywhere];
    return [
      ...ofSite.flatMap((stage) => begun(stage, '/sites', siteId)),
      { title: 'Undo last edit', detail: 'Do', act: () => this.site.turn('undo') },
      ...stages,
      ...everywhere,
    ];
  });
  protected readonly items = computed((): Action[] => {
    const typed = this.typed().toLowerCase();
    const actions = this.actions().filter((action) => action.title.toLowerCase().includes(typed));
    if (typed === '') return actions;
    const hits = this.found().hits.map((hit) => ({ title: hit.title, detail: hit.detail, act: () => this.open(hit) }));
    return [...hits, ...actions].length > 0
      ? [...hits, ...actions]
      : [{ title: 'Nothing found', detail: 'Try a name, MAC, serial number or address', act: () => undefined }];
  });
  protected readonly nothing = (): string => '';

  constructor() {
    this.wanted
      .pipe(
        debounceTime(120),
        switchMap((q) =>
          (q.trim() === ''
            ? of([])
            : this.http.get<SearchHit[]>('/api/search', { params: { q } }).pipe(catchError(() => of([])))
          ).pipe(map((hits) => ({ of: q, hits }))),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((found) => {
        this.found.set(found);
        if (this.hasty) this.run(this.items()[0]!);
      });
    // Before the list sees the key: it would take what was found for fewer letters.
    inject<ElementRef<HTMLElement>>(ElementRef).nativeElement.addEventListener(
      'keydown',
      (event) => {
        if (event.key !== 'Enter' || this.found().of === this.typed()) return;
        event.preventDefault();
        event.stopPropagation();
        this.hasty = true;
      },
      { capture: true },
    );
  }

  @HostListener('document:keydown', ['$event'])
  protected onKey(event: KeyboardEvent): void {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'k') return;
    event.preventDefault();
    this.box().nativeElement.focus();
    this.trigger().openPanel();
  }

  protected type(text: string): void {
    this.hasty = false;
    this.typed.set(text);
    this.wanted.next(text);
  }

  protected choose(event: MatAutocompleteSelectedEvent): void {
    this.run(event.option.value as Action);
  }

  private run(action: Action): void {
    this.trigger().closePanel();
    this.box().nativeElement.value = '';
    this.type('');
    this.box().nativeElement.blur();
    action.act();
  }

  /** Shows what was found: at its site, or over all sites where they share it. */
  private open(hit: SearchHit): Promise<boolean> {
    const { siteId } = hit;
    const stages: readonly Stage[] = siteId === null ? estateStages(this.stages) : siteStages(this.stages);
    const stage = stages.find(({ hits }) => hits?.[hit.kind]);
    const queryParams = { show: stage?.hits?.[hit.kind]?.(hit) };
    return this.router.navigate(siteId === null ? [`/${stage?.path ?? ''}`] : ['/sites', siteId, stage?.path ?? ''], {
      queryParams,
    });
  }
}
