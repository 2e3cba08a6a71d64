import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import type { Ssid } from '@iron-lattice/core/intent';
import type { Problem } from '../session/problem';
import { SharedStore } from '../shell/shared-store';
import { Cell } from '../ui/cell';
import { ChoiceCell } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { TokenField } from '../ui/token-field';
import { ringTokens } from './ring-tokens';
import { SsidAsked } from './ssid-asked';
import type { SsidText } from './ssid-text';

const WHERE = [
  { value: null, label: 'kept here' },
  { value: 'servers', label: 'at RADIUS servers' },
] as const;

/** Where the keys of an SSID are, in its sheet, and where they may lead. */
@Component({
  selector: 'il-ssid-ring',
  imports: [MatButtonModule, RouterLink, Cell, ChoiceCell, SsidAsked, TokenField],
  template: `
    <il-choice-cell
      label="Its keys are"
      for="ssid-keys-at"
      [hint]="
        text().keysAt
          ? 'Asked for by MAC address (Tunnel-Password); keys that are kept here count for nothing meanwhile'
          : 'Kept beside the draft: each acts at once, and is taken back at once'
      "
      [options]="where"
      [value]="text().keysAt"
      [disabled]="!mayChange()"
      [flaw]="problem()?.of('keysAt')"
      (chosen)="changed.emit({ keysAt: $event })"
    />
    @if (text().keysAt) {
      <il-ssid-asked [reach]="text().reach" [keys]="true" />
      <il-cell
        label="They may lead to"
        for="ssid-ring-segments"
        size="wide"
        hint="Segments by name, besides the one that its clients join; a key that leads elsewhere lets nobody in"
        [flaw]="problem()?.of('ring')"
      >
        <il-token-field
          label="Segments that its keys may lead to"
          for="ssid-ring-segments"
          placeholder="Berth 7"
          [readonly]="!mayChange()"
          [value]="written()"
          [source]="tokens()"
          (typed)="lead($event)"
        />
      </il-cell>
    } @else {
      <il-cell label="Keys">
        @if (ssid(); as ssid) {
          <a mat-stroked-button [routerLink]="[]" [queryParams]="{ as: 'keys', ring: ssid.id, show: null }">
            Keys of this ring
          </a>
          <p class="hint">{{ words(ssid) }}</p>
        } @else {
          <div class="value">Add the SSID first; its keys are made under Keys.</div>
        }
      </il-cell>
    }
  `,
  styles: ':host { display: contents; }',
})
export class SsidRing {
  protected readonly shared = inject(SharedStore);
  readonly ssid = input.required<Ssid | null>();
  readonly text = input.required<SsidText>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  readonly changed = output<Partial<SsidText>>();
  protected readonly where = WHERE;
  protected readonly tokens = computed(() => ringTokens(this.shared.joinChoices('', false)));
  protected readonly written = computed(() => (this.text().ring ?? []).join(', '));

  protected lead(written: string): void {
    const ring = this.tokens()
      .read(written)
      .map(({ text }) => text);
    this.changed.emit({ ring });
  }
  protected words = ({ ring, segment }: Ssid): string =>
    ring && ring.length > 0
      ? `They may lead to ${segment} and ${counted(ring.length, 'other segment')}.`
      : `They lead to ${segment}; others come with keys that are made for them.`;
}
