import { Injectable, inject } from '@angular/core';
import { Router } from '@angular/router';
import type { Finding } from '@iron-lattice/core/assess';
import { stageOf, STAGES } from './stage';

/** Leads to the place of a finding: the stage of its site that shows it. */
@Injectable({ providedIn: 'root' })
export class FindingWay {
  private readonly router = inject(Router);
  private readonly stages = inject(STAGES);

  async to({ place }: Finding): Promise<void> {
    const shown = stageOf(this.stages, place);
    if (shown) await this.router.navigate(['/sites', place.siteId, shown.path], { queryParams: { show: shown.show } });
  }
}
