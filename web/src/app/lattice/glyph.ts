import { Component, input } from '@angular/core';
import type { Crossing } from '@iron-lattice/core/lattice';

/** Drawn parts of each crossing, around a middle of 0 0; `ground` stands for the colour of the paper. */
const SHAPES: Readonly<Record<Crossing, string>> = {
  untagged: '<rect x="-6" y="-6" width="12" height="12" fill="currentColor"/>',
  tagged: '<rect x="-5.5" y="-5.5" width="11" height="11" fill="ground" stroke="currentColor" stroke-width="2"/>',
  broadcast:
    '<rect x="-8" y="-5" width="16" height="10" fill="ground"/><path d="M-7.5 0.5a8.5 8.5 0 0 1 15 0" fill="none" stroke="currentColor" stroke-width="2.2"/><circle cy="2" r="2.6" fill="currentColor"/>',
  routed: '<path d="M0-8 8 0 0 8-8 0Z" fill="currentColor"/>',
  served: '<rect x="-3" y="-7" width="6" height="14" fill="currentColor"/>',
  missing:
    '<rect x="-8.5" y="-8.5" width="17" height="17" fill="ground" stroke="currentColor" stroke-width="2" stroke-dasharray="3 2"/><path d="M-3.5-3.5 3.5 3.5M3.5-3.5-3.5 3.5" stroke="currentColor" stroke-width="2"/>',
};

/** A crossing as SVG. @param ground colour of the paper, so that strands do not show through. */
export const glyphSvg = (crossing: Crossing, ground: string): string =>
  SHAPES[crossing].replaceAll('fill="ground"', `fill="${ground}"`);

/** The glyph of a crossing, in the present colour. */
@Component({
  selector: 'svg[il-glyph]', // eslint-disable-line @angular-eslint/component-selector
  template: `
    @switch (crossing()) {
      @case ('untagged') {
        <svg:rect x="-6" y="-6" width="12" height="12" fill="currentColor" />
      }
      @case ('tagged') {
        <svg:rect
          x="-5.5"
          y="-5.5"
          width="11"
          height="11"
          fill="var(--ground)"
          stroke="currentColor"
          stroke-width="2"
        />
      }
      @case ('broadcast') {
        <svg:rect x="-8" y="-5" width="16" height="10" fill="var(--ground)" />
        <svg:path d="M-7.5 0.5a8.5 8.5 0 0 1 15 0" fill="none" stroke="currentColor" stroke-width="2.2" />
        <svg:circle cy="2" r="2.6" fill="currentColor" />
      }
      @case ('routed') {
        <svg:path d="M0-8 8 0 0 8-8 0Z" fill="currentColor" />
      }
      @case ('served') {
        <svg:rect x="-3" y="-7" width="6" height="14" fill="currentColor" />
      }
      @case ('missing') {
        <svg:rect
          x="-8.5"
          y="-8.5"
          width="17"
          height="17"
          fill="var(--ground)"
          stroke="currentColor"
          stroke-width="2"
          stroke-dasharray="3 2"
        />
        <svg:path d="M-3.5-3.5 3.5 3.5M3.5-3.5-3.5 3.5" stroke="currentColor" stroke-width="2" />
      }
    }
  `,
})
export class Glyph {
  readonly crossing = input.required<Crossing>();
}
