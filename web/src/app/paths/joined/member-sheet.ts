import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { JoinedSiteView, TunnelKeyView } from '@iron-lattice/core/assess';
import { foundKey, type Member, type Operation } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../../session/session-store';
import { EditForm } from '../../shell/edit-form';
import { liveFetch } from '../../shell/live-fetch';
import { SiteStore } from '../../shell/site-store';
import { Turns } from '../../shell/turns';
import { Cell } from '../../ui/cell';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';
import { choicePlaces, chosenAt } from '../../ui/choice-places';
import { counted } from '../../ui/counted';
import { Sheet } from '../../ui/sheet';
import { TextCell } from '../../ui/text-cell';
import { JoinedStore } from './joined-store';
import { tunnelWords, type JoinedRow } from './joined-rows';
import { listTyped, memberTextOf, memberTyped, newMember, type MemberText } from './member-text';

const FIELDS = [
  'siteId',
  'deviceId',
  'role',
  'hubs',
  'direct',
  'segments',
  'prefixes',
  'takes',
  'leaves',
  'found',
  'spans',
];

/** A site that is joined to others, whose edits go into the draft as they are made; or one that is to be joined. */
@Component({
  selector: 'il-member-sheet',
  imports: [MatButtonModule, MatCheckboxModule, Cell, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" [focusFirst]="row() === null" (closed)="closed.emit()">
      @if (row() && session.mayChange()) {
        <button actions mat-button type="button" [disabled]="form.busy()" (click)="rekey()">Make another key</button>
      }
      @if (row() && session.mayChange()) {
        <button actions mat-button type="button" (click)="remove()">Take out</button>
      }
      @if (row() === null) {
        <button actions mat-flat-button type="button" [disabled]="form.busy() || text().siteId === ''" (click)="add()">
          Join the site
        </button>
      }
      <div class="cells">
        @let typed = text();
        @if (row() === null) {
          <il-choice-cell
            label="Site"
            for="member-site"
            [options]="siteChoices()"
            [value]="typed.siteId"
            [hint]="siteChoices().length === 0 ? 'Every site that has a gateway is joined' : ''"
            [flaw]="problem()?.of('siteId')"
            (chosen)="choose($event)"
          />
          @if (store.spans() === null) {
            <il-text-cell
              label="Networks of all sites are in"
              for="member-spans"
              example="10.0.0.0/8"
              [mono]="true"
              [value]="spans"
              hint="What is for there goes into tunnels or nowhere, never out to the internet"
              [flaw]="problem()?.of('spans')"
              (typed)="spans = $event"
            />
          }
        }
        <il-choice-cell
          label="Is a"
          for="member-role"
          [options]="roles"
          [value]="typed.role"
          [hint]="roleHint()"
          [flaw]="problem()?.of('role')"
          [disabled]="!session.mayChange()"
          (chosen)="set({ role: $event })"
        />
        @if (gateways().length > 1) {
          <il-choice-cell
            label="Its tunnels end at"
            for="member-gateway"
            [options]="gateways()"
            [value]="typed.deviceId"
            [flaw]="problem()?.of('deviceId')"
            [disabled]="!session.mayChange()"
            (chosen)="set({ deviceId: $event })"
          />
        }
        @if (typed.role === 'spoke') {
          @for (place of hubPlaces(); track $index) {
            <il-choice-cell
              [label]="$index === 0 ? 'By the hub' : $index === 1 ? 'If that is gone, by' : 'Then by'"
              [for]="'member-hub-' + $index"
              [options]="place.options"
              [value]="place.value"
              [example]="$index === 0 ? '' : 'nothing'"
              [flaw]="$index === 0 ? problem()?.of('hubs') : ''"
              [disabled]="!session.mayChange()"
              (chosen)="setHub($index, $event)"
            />
          }
          <il-choice-cell
            label="Tunnels of its own to"
            for="member-direct"
            example="none: all goes by a hub"
            [several]="true"
            [options]="spokes()"
            [value]="typed.direct"
            [hint]="directHint()"
            [flaw]="problem()?.of('direct')"
            [disabled]="!session.mayChange()"
            (chosen)="set({ direct: $event })"
          />
          <il-choice-cell
            label="The internet"
            for="member-leaves"
            [options]="leavings"
            [value]="typed.leaves"
            [flaw]="problem()?.of('leaves')"
            [disabled]="!session.mayChange()"
            (chosen)="set({ leaves: $event })"
          />
        }
        <il-cell label="Others reach" size="wide" [flaw]="problem()?.of('segments')">
          <mat-checkbox
            [checked]="typed.all"
            [disabled]="!session.mayChange()"
            (change)="set({ all: $event.checked, segments: openIds() })"
            >every segment that is not kept from others</mat-checkbox
          >
          <ul class="segments">
            @for (segment of facts.value()?.segments; track segment.id) {
              <li>
                <mat-checkbox
                  [checked]="typed.all ? !segment.apart : typed.segments.includes(segment.id)"
                  [disabled]="typed.all || !session.mayChange()"
                  (change)="share(segment.id, $event.checked)"
                  >{{ segment.name }} <span class="mono">{{ segment.subnet }}</span>{{
                    segment.apart ? ', kept apart' : ''
                  }}</mat-checkbox
                >
              </li>
            }
          </ul>
        </il-cell>
        <il-text-cell
          label="And these networks behind it"
          for="member-prefixes"
          example="none"
          [mono]="true"
          hint="Such as those that it has a route to"
          [flaw]="problem()?.of('prefixes')"
          [readonly]="!session.mayChange()"
          [value]="typed.prefixes"
          (typed)="form.put({ prefixes: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="It speaks with"
          for="member-takes"
          example="all joined sites"
          [mono]="true"
          hint="Networks of others, such as 10.10.0.0/16; with no others, either way"
          [flaw]="problem()?.of('takes')"
          [readonly]="!session.mayChange()"
          [value]="typed.takes"
          (typed)="form.put({ takes: $event })"
          (done)="save()"
        />
        @for (uplink of uplinks(); track uplink.port) {
          <il-text-cell
            [label]="uplink.label"
            [for]="'member-found-' + uplink.port"
            [example]="uplink.fixed ?? 'nowhere: it calls'"
            [mono]="true"
            [hint]="uplink.hint"
            [flaw]="$first ? problem()?.of('found') : ''"
            [readonly]="!session.mayChange()"
            [value]="typed.found[uplink.port] ?? ''"
            (typed)="put(uplink.port, $event)"
            (done)="save()"
          />
        }
        @if (row(); as one) {
          <il-cell label="Its tunnels" size="wide">
            <ul class="tunnels">
              @for (tunnel of one.tunnels; track tunnel.peerId) {
                <li>
                  <b>{{ tunnel.name }}</b>
                  <span [class]="tunnel.state">{{ words(tunnel) }}</span>
                  <span class="soft">packets of {{ tunnel.mtu }} octets</span>
                </li>
              } @empty {
                <li>None: what is for other sites is dropped.</li>
              }
            </ul>
          </il-cell>
          <il-cell label="Known to others by the key">
            <span class="mono key">{{ one.member.key.public }}</span>
          </il-cell>
        }
        @if (other(); as wrong) {
          <p class="cell full flaw" role="alert">{{ wrong }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    .segments {
      columns: 2;
      column-gap: 18px;
    }
    .segments li {
      break-inside: avoid;
    }
    .tunnels li {
      display: grid;
      grid-template-columns: minmax(90px, 1fr) minmax(0, 3fr) minmax(0, 2fr);
      gap: 10px;
      padding: 2px 0;
    }
    .down,
    .never {
      color: var(--bad);
    }
    .up {
      color: var(--good);
    }
    .key {
      font-size: 12px;
      overflow-wrap: anywhere;
    }
    @media (max-width: 720px) {
      .segments {
        columns: 1;
      }
      .tunnels li {
        grid-template-columns: minmax(0, 1fr);
        gap: 0;
      }
    }
  `,
})
export class MemberSheet {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  protected readonly store = inject(JoinedStore);
  protected readonly session = inject(SessionStore);
  /** Null: one that is to be joined. */
  readonly row = input.required<JoinedRow | null>();
  readonly closed = output<void>();
  readonly added = output<string>();
  protected readonly roles: readonly Choice[] = [
    { value: 'hub', label: 'hub: it hands on what is for others' },
    { value: 'spoke', label: 'spoke: it sends to hubs' },
  ];
  protected readonly leavings: readonly Choice[] = [
    { value: 'here', label: 'by its own uplinks' },
    { value: 'hub', label: 'by its hub, through the tunnel' },
  ];
  /** Where networks of all sites are, while nobody said so yet. */
  protected spans = '10.0.0.0/8';
  private made: TunnelKeyView | null = null;

  private readonly hubIds = computed(() =>
    this.store.rows().flatMap(({ id, member: { role } }) => (role === 'hub' ? [id] : [])),
  );
  protected readonly form = new EditForm<Member, MemberText>({
    kept: () => this.row()?.member ?? null,
    idOf: ({ id }) => id,
    textOf: (member) => (member ? memberTextOf(member) : newMember(undefined, this.hubIds().slice(0, 2))),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  private readonly turns = new Turns();
  protected readonly words = tunnelWords;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly facts = liveFetch({
    of: () => {
      const [draft, { siteId }] = [this.site.draft(), this.text()];
      return draft && siteId !== '' ? { draftId: draft.id, siteId, head: draft.head } : undefined;
    },
    fetch: ({ draftId, siteId }) =>
      firstValueFrom(this.http.get<JoinedSiteView>(`/api/drafts/${draftId}/joined/${siteId}`)),
    when: ({ type }) => type === 'device',
    stays: true,
  });
  protected readonly heading = computed(() => this.row()?.join.name ?? 'Join a site');
  protected readonly note = computed(() => {
    const row = this.row();
    if (!row)
      return 'Its gateway gets tunnels to those of others, and a key that the controller makes and shows to nobody';
    const { members = [] } = this.store.estate() ?? {};
    const users = members.filter(({ hubs }) => hubs.includes(row.id)).length;
    const what =
      row.member.role === 'hub' ? `Hub of ${counted(users, 'site')}` : `Spoke of ${row.hubs.join(', then ')}`;
    return `${what}; ends at ${row.gateway}`;
  });
  protected readonly siteChoices = computed((): readonly Choice[] =>
    this.store.joinable().map(({ id, name }) => ({ value: id, label: name })),
  );
  protected readonly gateways = computed((): readonly Choice[] => {
    const site = this.store.view()?.sites.find(({ id }) => id === this.text().siteId);
    return (site?.gateways ?? []).map(({ id, name }) => ({ value: id, label: name }));
  });
  protected readonly hubPlaces = computed(() => {
    const { hubs } = this.text();
    const all = this.store.rows().filter(({ id, member }) => member.role === 'hub' && id !== this.row()?.id);
    return choicePlaces(
      hubs,
      all.map(({ id, join }) => ({ value: id, label: join.name })),
    );
  });
  protected readonly spokes = computed((): readonly Choice[] =>
    this.store
      .rows()
      .filter(({ id, member }) => member.role === 'spoke' && id !== this.row()?.id)
      .map(({ id, join }) => ({ value: id, label: join.name })),
  );
  protected readonly directHint = computed(() => {
    const named = this.store.rows().filter(({ member }) => member.direct.includes(this.row()?.id ?? ''));
    return named.length > 0 ? `${named.map(({ join }) => join.name).join(', ')} named it too` : '';
  });
  protected readonly roleHint = computed(() =>
    this.text().role === 'hub'
      ? 'Joined to every other hub by itself; others have to find it'
      : this.hubIds().length === 0
        ? 'There is no hub yet: join one first'
        : '',
  );
  /** The gateways at which its tunnels may end. */
  private readonly ends = computed(() => {
    const { deviceId } = this.text();
    const pair = this.facts.value()?.pair ?? [];
    return pair.includes(deviceId) ? pair : [deviceId];
  });
  protected readonly uplinks = computed(() =>
    (this.facts.value()?.uplinks ?? [])
      .filter(({ deviceId }) => this.ends().includes(deviceId))
      .map(({ deviceId, gateway, port, title, address, fixed }) => ({
        ...{ port: foundKey(this.text(), deviceId, port), fixed },
        label: `${title ?? port}${this.ends().length > 1 ? ` of ${gateway}` : ''} is found at`,
        hint: fixed
          ? 'Its own for good'
          : address
            ? `It has ${address} now, which may change: say it if it stays`
            : 'An address that leads to it, such as one of the provider’s router',
      })),
  );

  /** Segments that would be shared if nobody chose. */
  protected openIds(): readonly string[] {
    return (this.facts.value()?.segments ?? []).filter(({ apart }) => !apart).map(({ id }) => id);
  }

  protected choose(siteId: string): void {
    const site = this.store.view()?.sites.find(({ id }) => id === siteId);
    this.form.put({ siteId, deviceId: site?.gateways[0]?.id ?? '', found: {} });
  }

  protected set(change: Partial<MemberText>): void {
    this.form.put(change);
    void this.save();
  }

  protected setHub(at: number, id: string | null): void {
    this.set({ hubs: chosenAt(this.text().hubs, at, id) });
  }

  protected share(id: string, shared: boolean): void {
    const { segments } = this.text();
    this.set({ segments: shared ? [...segments, id] : segments.filter((each) => each !== id) });
  }

  protected put(port: string, address: string): void {
    this.form.put({ found: { ...this.text().found, [port]: address } });
  }

  protected async save(): Promise<void> {
    if (!this.row()) return;
    await this.turns.take(() =>
      this.form.send(async () => {
        const { from, to } = this.form.change(memberTyped(this.text()), (now) => now);
        const operation: Operation = { type: 'member.set', memberId: this.row()!.id, from, to };
        if (Object.keys(to).length > 0) await this.site.edit([operation]);
      }),
    );
  }

  protected async add(): Promise<void> {
    const id = crypto.randomUUID();
    const done = await this.form.send(async () => {
      // One that was refused is tried again with the same key.
      const key = (this.made ??= await this.store.key());
      const operations: Operation[] =
        this.store.spans() === null ? [{ type: 'overlay.set', from: null, to: { spans: listTyped(this.spans) } }] : [];
      operations.push({ type: 'member.add', member: { id, ...memberTyped(this.text()), key } });
      await this.site.edit(operations);
    });
    if (!done) return;
    this.made = null;
    this.form.reset();
    this.added.emit(id);
  }

  /** Another key: its old one is worth nothing once the rollout reached both ends. */
  protected async rekey(): Promise<void> {
    const { id, member } = this.row()!;
    await this.form.send(async () => {
      const key = await this.store.key();
      await this.site.edit([{ type: 'member.set', memberId: id, from: { key: member.key }, to: { key } }]);
    });
  }

  protected async remove(): Promise<void> {
    const operation: Operation = { type: 'member.remove', memberId: this.row()!.id };
    if (await this.form.send(() => this.site.edit([operation]))) this.closed.emit();
  }
}
