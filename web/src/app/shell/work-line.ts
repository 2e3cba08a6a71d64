import { Component, ElementRef, afterRenderEffect, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router, RouterLink } from '@angular/router';
import { filter, map, startWith } from 'rxjs';
import { STAGES, type StagePath } from './stages';
import { SiteStore } from './site-store';

interface Waiting {
  readonly count: number;
  readonly tone: 'info' | 'bad';
  readonly words: string;
}

/** The stages as stations on one line, each with what waits there. */
@Component({
  selector: 'il-work-line',
  imports: [RouterLink],
  template: `
    <nav aria-label="Stages">
      @for (stage of stages; track stage.path) {
        <a
          [routerLink]="['/sites', store.siteId(), stage.path]"
          [class.here]="here() === stage.path"
          [attr.aria-current]="here() === stage.path ? 'page' : null"
        >
          <span class="node">
            @if (waiting()[stage.path]; as wait) {
              <span class="count" [class]="wait.tone" [attr.aria-label]="wait.words">{{ wait.count }}</span>
            }
          </span>
          {{ stage.name }}
        </a>
      }
    </nav>
  `,
  styles: `
    :host {
      display: block;
      border-bottom: 1px solid var(--rule);
      flex: none;
      overflow-x: auto;
      scrollbar-width: none;
    }
    nav {
      display: flex;
      height: 50px;
      min-width: 100%;
      width: max-content;
      padding: 0 8px;
    }
    a {
      flex: 1;
      min-width: 96px;
      position: relative;
      display: flex;
      flex-direction: column;
      align-items: center;
      justify-content: flex-end;
      padding-bottom: 5px;
      text-decoration: none;
      color: var(--soft);
      font:
        500 13px/18px 'Barlow Semi Condensed',
        Barlow;
    }
    a::before {
      content: '';
      position: absolute;
      top: 16px;
      left: 0;
      right: 0;
      border-top: 1px solid var(--strong);
    }
    a:first-child::before {
      left: 50%;
    }
    a:last-child::before {
      right: 50%;
    }
    .node {
      position: absolute;
      top: 12px;
      width: 9px;
      height: 9px;
      background: var(--ground);
      border: 1px solid var(--strong);
    }
    .here {
      color: var(--ink);
      font-weight: 600;
    }
    .here .node {
      top: 10px;
      width: 13px;
      height: 13px;
      background: var(--iron);
      border-color: var(--iron);
    }
    a:hover {
      color: var(--ink);
    }
    .count {
      position: absolute;
      left: 12px;
      top: -9px;
      min-width: 14px;
      padding: 0 3px;
      text-align: center;
      background: var(--sheet);
      border: 1px solid currentColor;
      font:
        600 11px/13px 'JetBrains Mono',
        monospace;
    }
  `,
})
export class WorkLine {
  private readonly router = inject(Router);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly store = inject(SiteStore);
  protected readonly stages = STAGES;
  protected readonly here = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      startWith(null),
      map(() => this.router.url.split(/[/?]/)[3] ?? ''),
    ),
    { initialValue: '' },
  );

  protected readonly waiting = computed((): Partial<Record<StagePath, Waiting>> => {
    const findings = this.store.consequences()?.findings.filter((finding) => finding.severity !== 'info') ?? [];
    const count = (prefix: string): number => findings.filter((finding) => finding.code.startsWith(prefix)).length;
    const changes = this.store.consequences()?.changes.length ?? 0;
    const calling = this.store.calling().length;
    const waiting: Partial<Record<StagePath, Waiting>> = {};
    if (calling > 0) waiting.intake = { count: calling, tone: 'info', words: `${calling} calling` };
    const [lattice, wireless] = [count('lattice.') + count('intake.'), count('wireless.')];
    if (lattice > 0) waiting.lattice = { count: lattice, tone: 'bad', words: `${lattice} findings` };
    if (wireless > 0) waiting.wireless = { count: wireless, tone: 'bad', words: `${wireless} findings` };
    if (changes > 0) waiting.rollout = { count: changes, tone: 'info', words: `${changes} devices would change` };
    return waiting;
  });

  constructor() {
    // On a narrow screen the line scrolls; the present station stays in the middle.
    afterRenderEffect(() => {
      this.here();
      const link = this.host.nativeElement.querySelector<HTMLElement>('.here');
      const box = this.host.nativeElement;
      if (link) box.scrollLeft = link.offsetLeft - (box.clientWidth - link.offsetWidth) / 2;
    });
  }
}
