import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Segment } from '@iron-lattice/core/intent';
import { AIRED, USUAL_PORT, airedSegments, carriage, portSetting } from '@iron-lattice/core/intent';
import type { GridColumn } from '@iron-lattice/core/lattice';
import { SessionStore } from '../../session/session-store';
import { SiteStore } from '../../shell/site-store';
import { SegmentTag } from '../../ui/segment-tag';
import { Sheet } from '../../ui/sheet';
import { Cell } from '../../ui/cell';

/** Where a segment meets a port: how it passes, and the edits that change it. */
@Component({
  selector: 'il-port-sheet',
  imports: [MatButtonModule, Sheet, SegmentTag, Cell],
  template: `
    <il-sheet
      [heading]="column().group + ' ' + column().label"
      [note]="'and ' + segment().name"
      (closed)="closed.emit()"
    >
      <ng-container ngProjectAs="[actions]">
        @if (session.mayChange()) {
          @switch (carried()) {
            @case (null) {
              <button mat-stroked-button [class.mend]="missing() && !isManagement()" (click)="tag('port.tag')">
                Carry {{ segment().name }} tagged
              </button>
              <button mat-stroked-button [class.mend]="missing() && isManagement()" (click)="setUntagged(segment().id)">
                Carry it untagged{{ setting().untagged === null ? '' : ' instead of ' + untagged() }}
              </button>
            }
            @case ('tagged') {
              @if (!trunk()) {
                <button mat-stroked-button (click)="tag('port.untag')">Take the tag {{ segment().vlan }} off</button>
              }
            }
            @case ('untagged') {
              <button mat-stroked-button (click)="setUntagged(null)">Carry nothing untagged here</button>
            }
          }
        }
        <button mat-button (click)="whole.emit()">The whole port</button>
      </ng-container>
      @if (store.marks().get(segment().id); as mark) {
        <il-segment-tag lead [mark]="mark" />
      }
      <div class="cells">
        <il-cell [label]="segment().name + ' passes'" size="wide">
          <div class="value" [class.bad]="missing()">{{ state() }}</div>
        </il-cell>
        <il-cell label="The port carries untagged" size="wide">
          <div class="value">{{ untagged() }}</div>
        </il-cell>
        <il-cell label="The port carries tagged" size="wide">
          <div class="value">{{ tagged() }}</div>
        </il-cell>
        @if (session.mayChange() && carried() === 'tagged' && trunk()) {
          <p class="cell full soft">A trunk carries every segment of the site.</p>
        } @else if (session.mayChange() && carried() === 'untagged' && isManagement()) {
          <p class="cell full soft">
            A device that lives here needs {{ segment().name }} to reach the controller; without it the device is cut
            off.
          </p>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class PortSheet {
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly segment = input.required<Segment>();
  readonly column = input.required<GridColumn>();
  readonly closed = output<void>();
  /** The whole port is to be shown. */
  readonly whole = output<void>();

  protected readonly setting = computed(() => {
    const [site, { deviceId, port }] = [this.store.site(), this.column()];
    const device = this.store.data()?.roster.find((each) => each.id === deviceId);
    return site && device && port ? portSetting(site, device, port) : { ...USUAL_PORT, untagged: null, tagged: [] };
  });
  /** Devices live in it, and speak it untagged. */
  protected readonly isManagement = computed(() => this.segment().id === this.store.site()?.managementId);
  protected readonly carried = computed(() => carriage(this.setting(), this.segment().id, this.airedIds()));
  private readonly airedIds = computed(() => {
    const data = this.store.data();
    return data ? airedSegments(data.estate, data.site) : new Set<string>();
  });
  protected readonly trunk = computed(() => this.setting().tagged === 'all');
  protected readonly missing = computed(() => {
    const rows = this.store.consequences()?.grid.rows ?? [];
    return rows.find((row) => row.segment.id === this.segment().id)?.missing.includes(this.column().key) ?? false;
  });
  protected readonly state = computed(() => {
    if (this.missing()) return 'not at all, though an outer device needs it';
    return this.carried() ?? 'not at all';
  });
  protected readonly untagged = computed(() => this.nameOf(this.setting().untagged) ?? 'nothing');
  protected readonly tagged = computed(() => {
    const { tagged } = this.setting();
    if (tagged === 'all') return 'every segment';
    return tagged.map((id) => (id === AIRED ? 'those of the SSIDs' : this.nameOf(id))).join(', ') || 'nothing';
  });

  protected tag(type: 'port.tag' | 'port.untag'): Promise<boolean> {
    return this.store.tryEdit([{ type, ...this.at(), segmentId: this.segment().id }]);
  }

  protected setUntagged(to: string | null): Promise<boolean> {
    return this.store.tryEdit([{ type: 'port.untagged', ...this.at(), from: this.setting().untagged, to }]);
  }

  private at() {
    const { deviceId, port } = this.column();
    return { siteId: this.store.siteId()!, deviceId: deviceId!, port: port! };
  }

  private nameOf(id: string | null): string | undefined {
    return this.store.site()?.segments.find((segment) => segment.id === id)?.name;
  }
}
