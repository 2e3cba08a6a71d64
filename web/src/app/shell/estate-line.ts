import { Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router } from '@angular/router';
import { filter, map, startWith } from 'rxjs';
import { StationLine, type Station } from '../ui/station-line';
import { EstateStore } from './estate-store';

/** What is looked at over all sites. */
@Component({
  selector: 'il-estate-line',
  imports: [StationLine],
  template: '<il-station-line label="Estate" [stations]="stations()" />',
  styles: ':host { display: contents; }',
})
export class EstateLine {
  private readonly router = inject(Router);
  private readonly estate = inject(EstateStore);
  private readonly here = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      startWith(null),
      map(() => this.router.url.split(/[/?]/)[1] ?? ''),
    ),
    { initialValue: '' },
  );
  protected readonly stations = computed((): Station[] => {
    const calling = this.estate.estate()?.calling ?? 0;
    const here = this.here();
    return [
      { name: 'Sites', link: ['/'], here: here === '' },
      {
        name: 'Devices',
        link: ['/devices'],
        here: here === 'devices',
        waiting: calling > 0 ? { count: calling, tone: 'info', words: `${calling} calling` } : undefined,
      },
      { name: 'Firmware', link: ['/firmware'], here: here === 'firmware' },
    ];
  });
}
