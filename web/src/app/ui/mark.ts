import { Component } from '@angular/core';

/** The product's mark: a lattice with one iron strand. */
@Component({
  selector: 'il-mark',
  template: `<svg width="22" height="22" viewBox="0 0 22 22" aria-hidden="true">
    <path d="M1 5.5h20M1 11h20M1 16.5h20M5.5 1v20M16.5 1v20" stroke="var(--ink)" stroke-width="1.6" />
    <path d="M11 1v20" stroke="var(--iron)" stroke-width="3" />
  </svg>`,
  styles: ':host { display: inline-flex; }',
})
export class Mark {}
