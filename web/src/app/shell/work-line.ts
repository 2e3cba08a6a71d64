import { Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router } from '@angular/router';
import { filter, map, startWith } from 'rxjs';
import { StationLine, type Station, type Waiting } from '../ui/station-line';
import { SiteStore } from './site-store';
import { STAGES, type StagePath } from './stages';

/** The stages of a site, each with what waits there. */
@Component({
  selector: 'il-work-line',
  imports: [StationLine],
  template: '<il-station-line label="Stages" [stations]="stations()" />',
  styles: ':host { display: contents; }',
})
export class WorkLine {
  private readonly router = inject(Router);
  private readonly store = inject(SiteStore);
  private readonly here = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      startWith(null),
      map(() => this.router.url.split(/[/?]/)[3] ?? ''),
    ),
    { initialValue: '' },
  );

  private readonly waiting = computed((): Partial<Record<StagePath, Waiting>> => {
    const findings = this.store.consequences()?.findings.filter((finding) => finding.severity !== 'info') ?? [];
    const count = (prefix: string): number => findings.filter((finding) => finding.code.startsWith(prefix)).length;
    const changes = this.store.consequences()?.changes.length ?? 0;
    const calling = this.store.calling().length;
    const waiting: Partial<Record<StagePath, Waiting>> = {};
    if (calling > 0) waiting.intake = { count: calling, tone: 'info', words: `${calling} calling` };
    const [lattice, wireless] = [count('lattice.') + count('intake.'), count('wireless.')];
    const rules = count('rules.') + count('rule.') + count('set.');
    if (rules > 0) waiting.rules = { count: rules, tone: 'bad', words: `${rules} findings` };
    if (lattice > 0) waiting.lattice = { count: lattice, tone: 'bad', words: `${lattice} findings` };
    if (wireless > 0) waiting.wireless = { count: wireless, tone: 'bad', words: `${wireless} findings` };
    if (changes > 0) waiting.rollout = { count: changes, tone: 'info', words: `${changes} devices would change` };
    return waiting;
  });
  protected readonly stations = computed(() =>
    STAGES.map(({ name, path }): Station => ({
      name,
      link: ['/sites', this.store.siteId(), path],
      here: this.here() === path,
      waiting: this.waiting()[path],
    })),
  );
}
