import { Component, computed, inject, input } from '@angular/core';
import { servedFrom, type Segment } from '@iron-lattice/core/intent';
import { sheetFor } from '@iron-lattice/core/hardware';
import type { CapLimits } from '@iron-lattice/core/rollout';
import type { CapWay, Limit } from '@iron-lattice/core/traffic';
import { SessionStore } from '../../session/session-store';
import { capShares } from '../../shell/cap-shares';
import { CapsCells } from '../../shell/caps-cells';
import { capsOf, capsReadable, capsText, type CapsText } from '../../shell/caps-text';
import { EditForm } from '../../shell/edit-form';
import { SiteStore } from '../../shell/site-store';
import { Turns } from '../../shell/turns';

/** What the clients of a segment may take, those on cables included; put into the draft when somebody goes on. */
@Component({
  selector: 'il-segment-caps',
  imports: [CapsCells],
  template: `
    <il-caps-cells
      of="segment"
      together="On cables and on the air"
      [text]="form.text()"
      [problem]="form.problem()"
      [readonly]="!session.mayChange()"
      [shares]="shares()"
      [place]="place()"
      (changed)="form.put($event)"
    />
    @if (other(); as message) {
      <p class="cell full flaw" role="alert">{{ message }}</p>
    }
  `,
  styles: ':host { display: contents; }',
  host: { '(focusout)': 'keep()', '(keydown.enter)': 'keep()' },
})
export class SegmentCaps {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly segment = input.required<Segment>();
  protected readonly form = new EditForm<Segment, CapsText>({
    kept: () => this.segment(),
    idOf: ({ id }) => id,
    textOf: (segment) => capsText(segment?.caps),
  });
  private readonly turns = new Turns();
  protected readonly other = computed(() => {
    const problem = this.form.problem();
    return problem && problem.flaws.length === 0 ? problem.message : '';
  });
  private readonly caps = computed(() => (capsReadable(this.form.text()) ? capsOf(this.form.text()) : null));
  protected readonly place = computed(() => {
    if (!this.caps()) return '';
    const { addresses } = this.segment();
    if (addresses && servedFrom(addresses).kind === 'ap')
      return 'Nothing holds it: APs route this segment themselves. Cap the SSIDs that lead into it instead.';
    const roster = this.store.data()?.roster ?? [];
    const gateway = roster.find((device) => sheetFor(device).kind === 'gateway');
    return gateway
      ? `Held at ${gateway.name}, which sees all of it: clients on cables and on the air alike. What stays inside the segment is not counted.`
      : 'Nothing holds it: no gateway of ours is here. Cap the SSIDs that lead into it instead.';
  });
  protected readonly shares = computed(() => {
    const [caps, { vlan }] = [this.caps(), this.segment()];
    const of = (way: CapWay): CapLimits => {
      const [client, all] = [caps?.client?.[way], caps?.all?.[way]];
      const own: Limit[] = [
        ...(client ? [{ of: 'each client', each: true, kbps: client }] : []),
        ...(all ? [{ of: 'all together', each: false, kbps: all }] : []),
      ];
      return { own, around: [] };
    };
    const clients = this.store.devices().flatMap((device) => device.clients);
    const own = clients.filter((client) => client.vlan === vlan && client.to === undefined).length;
    return capShares({ down: of('down'), up: of('up') }, { own, others: 0 });
  });

  protected keep(): Promise<void> {
    return this.turns.take(async () => {
      if (!this.session.mayChange() || !this.form.differs() || !capsReadable(this.form.text())) return;
      const { from, to } = this.form.change({ caps: capsOf(this.form.text()) }, ({ caps }) => ({ caps: caps ?? null }));
      if (!('caps' in to)) return;
      const at = { siteId: this.store.siteId()!, segmentId: this.segment().id };
      await this.form.send(() => this.store.edit([{ type: 'segment.set', ...at, from, to }]));
    });
  }
}
