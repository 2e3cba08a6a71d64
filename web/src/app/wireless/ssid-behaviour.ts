import { Component, input, output } from '@angular/core';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { ROAM_AIDS, type RoamAid } from '@iron-lattice/core/document';
import type { Problem } from '../session/problem';
import { Cell } from '../ui/cell';
import { TextCell } from '../ui/text-cell';
import { numberFlaw, type SsidText } from './ssid-text';

const AIDS: Readonly<Record<RoamAid, string>> = {
  k: 'lists of neighbours (802.11k)',
  v: 'asked to go (802.11v)',
  r: 'keys at once (802.11r)',
};

/** How an SSID treats its clients. */
@Component({
  selector: 'il-ssid-behaviour',
  imports: [MatCheckboxModule, Cell, TextCell],
  template: `
    <il-text-cell
      label="Lowest signal to join, dBm"
      for="ssid-join"
      hint="Empty: whoever is heard"
      [mono]="true"
      [flaw]="numberFlaw(text().join) || problem()?.of('join')"
      [readonly]="!mayChange()"
      [value]="text().join"
      (typed)="changed.emit({ join: $event })"
    />
    <il-text-cell
      label="Lowest signal to stay, dBm"
      for="ssid-stay"
      hint="Sent away below; empty: nobody is"
      [mono]="true"
      [flaw]="numberFlaw(text().stay) || problem()?.of('stay')"
      [readonly]="!mayChange()"
      [value]="text().stay"
      (typed)="changed.emit({ stay: $event })"
    />
    <il-text-cell
      label="Most clients a radio"
      for="ssid-most"
      hint="Empty: as many as come"
      [mono]="true"
      [flaw]="numberFlaw(text().most) || problem()?.of('most')"
      [readonly]="!mayChange()"
      [value]="text().most"
      (typed)="changed.emit({ most: $event })"
    />
    <il-cell
      label="Its name"
      role="group"
      aria-label="Its name"
      hint="Hiding keeps nobody out: clients say it aloud wherever they look for it."
    >
      <mat-checkbox
        [disabled]="!mayChange()"
        [checked]="text().hidden"
        (change)="changed.emit({ hidden: $event.checked })"
        >hidden from lists</mat-checkbox
      >
    </il-cell>
    <il-cell
      label="From one AP to another, clients get"
      size="wide"
      role="group"
      aria-label="From one AP to another, clients get"
      [hint]="
        text().roam.includes('r')
          ? 'Some clients of 802.11n, printers and scanners above all, do not join where keys are there at once.'
          : 'Clients that know none of it are not troubled by lists and by being asked.'
      "
      [flaw]="problem()?.of('roam')"
    >
      @for (aid of aids; track aid) {
        <mat-checkbox [disabled]="!mayChange()" [checked]="text().roam.includes(aid)" (change)="turn(aid)">{{
          words[aid]
        }}</mat-checkbox>
      }
    </il-cell>
    <il-cell
      label="Who does both 2.4 GHz and more"
      role="group"
      aria-label="Who does both 2.4 GHz and more"
      hint="Not answered at 2.4 GHz while 5 or 6 GHz is heard at −75 dBm or better."
      [flaw]="problem()?.of('steer')"
    >
      <mat-checkbox
        [disabled]="!mayChange()"
        [checked]="text().steer"
        (change)="changed.emit({ steer: $event.checked })"
        >is steered to the wider band</mat-checkbox
      >
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    mat-checkbox {
      margin-right: 10px;
    }
  `,
})
export class SsidBehaviour {
  readonly text = input.required<SsidText>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  readonly changed = output<Partial<SsidText>>();
  protected readonly aids = ROAM_AIDS;
  protected readonly words = AIDS;
  protected readonly numberFlaw = numberFlaw;

  protected turn(aid: RoamAid): void {
    const { roam } = this.text();
    this.changed.emit({ roam: ROAM_AIDS.filter((each) => (each === aid) !== roam.includes(each)) });
  }
}
