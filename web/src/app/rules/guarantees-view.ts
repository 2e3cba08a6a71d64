import { Component, computed, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { KeptGuarantee, Operation } from '@iron-lattice/core/intent';
import { readEnds, readServices } from '@iron-lattice/core/rules';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { TrafficCell } from '../shell/traffic-cell';
import { Cell } from '../ui/cell';
import { ChoiceCell } from '../ui/choice-cell';
import { RulesFacts } from './rules-facts';
import { TextCell } from '../ui/text-cell';

interface GuaranteeText {
  readonly kind: KeptGuarantee['kind'];
  readonly from: string;
  readonly to: string;
  readonly services: string;
  readonly besides: string;
}
const NEW: GuaranteeText = { kind: 'never', from: '', to: '', services: 'any', besides: '' };

/** What has to hold for every packet, whatever the rules are: each proven on every edit. */
@Component({
  selector: 'il-guarantees-view',
  imports: [MatButtonModule, Cell, ChoiceCell, TrafficCell, TextCell],
  template: `
    <ul aria-label="Guarantees">
      @for (result of results(); track result.id) {
        <li [class.shown]="result.id === shown()">
          <span class="state" [class]="result.state">{{ words[result.state] }}</span>
          <div>
            <b>{{ result.words }}</b>&ngsp;
            <span class="soft">{{ result.shared ? 'every site' + result.tag : 'this site' }}</span>
            @if (result.state === 'broken') {
              <p>
                <span class="mono">{{ result.packet }}</span>{{ result.at ? ', ' + result.at : '' }}: {{ result.why }}
              </p>
            } @else if (result.state === 'void') {
              <p class="soft">It names something that this site does not have.</p>
            }
          </div>
          @if (session.mayChange()) {
            <button mat-button (click)="remove(result)">Remove</button>
          }
        </li>
      } @empty {
        <li class="soft none">
          No guarantee yet. Say what must hold whatever the rules are, and every edit is proven against it.
        </li>
      }
    </ul>
    @if (session.mayChange()) {
      <div class="cells">
        @let typed = text();
        <il-choice-cell
          label="New guarantee"
          for="guarantee-kind"
          [options]="kinds"
          [value]="typed.kind"
          (chosen)="put({ kind: $event })"
        />
        <il-traffic-cell
          of="ends"
          label="From"
          for="guarantee-from"
          [value]="typed.from"
          [flaw]="problem()?.of('from')"
          (typed)="put({ from: $event })"
        />
        <il-traffic-cell
          of="ends"
          label="To"
          for="guarantee-to"
          [value]="typed.to"
          [flaw]="problem()?.of('to')"
          (typed)="put({ to: $event })"
        />
        <il-traffic-cell
          of="services"
          label="Services"
          for="guarantee-services"
          [value]="typed.services"
          [flaw]="flaw()"
          (typed)="put({ services: $event })"
        />
        <il-traffic-cell
          of="ends"
          label="Destinations that do not count"
          for="guarantee-besides"
          [value]="typed.besides"
          hint="Such as gateway"
          (typed)="put({ besides: $event })"
        />
        <il-text-cell
          label="Where"
          for="guarantee-tag"
          size="wide"
          example="Tag…"
          hint="With a tag, every site means those that have it"
          [flaw]="other()"
          [value]="tag()"
          (done)="tag.set($event)"
        >
          <ng-container ngProjectAs="[beside]">
            <button mat-flat-button [disabled]="form.busy()" (click)="add(false)">Guarantee at this site</button>
            <button mat-stroked-button [disabled]="form.busy()" (click)="add(true)">At every site</button>
          </ng-container>
        </il-text-cell>
        <il-cell label="Ready-made, to begin with" size="full">
          <div class="ready">
            @for (each of ready(); track each.label) {
              <button mat-stroked-button (click)="put(each.text)">{{ each.label }}</button>
            }
          </div>
        </il-cell>
      </div>
    }
  `,
  styles: `
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
      border-top: 1px solid var(--ink);
    }
    li {
      display: flex;
      gap: 12px;
      align-items: baseline;
      padding: 6px 14px;
      border-bottom: 1px solid var(--rule);
    }
    li > div {
      flex: 1;
    }
    li.shown {
      background: var(--tint);
      box-shadow: inset 3px 0 0 var(--iron);
    }
    .state {
      width: 62px;
      flex: none;
      text-align: center;
      border: 1px solid currentColor;
      font-weight: 600;
      font-size: 12px;
      line-height: 16px;
      color: var(--soft);
    }
    .state.holds {
      color: var(--good);
    }
    .state.broken {
      color: var(--bad);
      border-style: dashed;
    }
    .cells {
      background: var(--sheet);
      margin-top: 12px;
      border-top: 1px solid var(--rule);
    }
    .ready {
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
    }
  `,
})
export class GuaranteesView {
  private readonly store = inject(SiteStore);
  private readonly facts = inject(RulesFacts);
  protected readonly session = inject(SessionStore);
  /** Id of one to point at. */
  readonly shown = input<string | null>(null);
  protected readonly words = { holds: 'holds', broken: 'broken', void: 'not here' } as const;
  protected readonly kinds = [
    { value: 'never', label: 'Never reaches' },
    { value: 'always', label: 'Always reaches' },
    { value: 'only', label: 'Only this reaches' },
  ];
  protected readonly form = new EditForm<never, GuaranteeText>({ kept: () => null, idOf: () => '', textOf: () => NEW });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly tag = signal('');
  protected readonly results = computed(() =>
    (this.store.consequences()?.guarantees ?? []).map((result) => {
      const tag = this.kept(result.id, result.shared)?.tag;
      return { ...result, tag: tag ? ` with the tag ${tag}` : '' };
    }),
  );
  protected readonly flaw = computed(() => {
    const { bad } = readServices(this.text().services);
    return bad.length > 0 ? `“${bad[0]}” is no protocol with ports, such as tcp 443.` : this.problem()?.of('services');
  });
  protected readonly other = computed(() => {
    return this.form.other(['from', 'to', 'services', 'besides']);
  });
  /** Guarantees that most sites want, in terms of what this one has. */
  protected readonly ready = computed(() => {
    const site = this.facts.resolved();
    if (!site) return [];
    const named = (list: readonly { name: string }[]): string => list.map(({ name }) => `segment ${name}`).join(', ');
    const others = site.segments.filter(({ id }) => id !== site.managementId);
    const guests = others.filter(({ name }) => /guest|visitor|passenger|public/i.test(name));
    const management = `segment ${site.management.name}`;
    return [
      {
        label: 'Guests never reach private space',
        text: { ...NEW, from: named(guests.length > 0 ? guests : others.slice(-1)), to: 'private', besides: 'gateway' },
      },
      {
        label: 'Nothing but management reaches device management',
        text: { ...NEW, from: [named(others), 'internet'].filter((part) => part !== '').join(', '), to: management },
      },
      {
        label: 'Devices always reach the controller',
        text: { ...NEW, kind: 'always' as const, from: management, to: 'controller', services: 'tcp 443' },
      },
    ];
  });

  protected put(change: Partial<GuaranteeText>): void {
    this.form.put(change);
  }

  protected async add(everywhere: boolean): Promise<void> {
    const { kind, from, to, services, besides } = this.text();
    const known = this.facts.known();
    const read = readServices(services);
    if (read.bad.length > 0) return;
    const spared = readEnds(besides, known);
    const guarantee: KeptGuarantee = {
      id: crypto.randomUUID(),
      kind,
      from: readEnds(from, known),
      to: readEnds(to, known),
      services: read.services,
      ...(spared.length > 0 ? { besides: spared } : {}),
      ...(everywhere && this.tag().trim() ? { tag: this.tag().trim() } : {}),
    };
    const of = everywhere ? { shared: true as const } : { siteId: this.store.siteId()! };
    const operation: Operation = { type: 'guarantee.add', guarantee, ...of };
    if (await this.form.send(() => this.store.edit([operation]))) this.form.reset();
  }

  protected remove({ id, shared }: { readonly id: string; readonly shared: boolean }): void {
    const of = shared ? { shared: true as const } : { siteId: this.store.siteId()! };
    void this.store.tryEdit([{ type: 'guarantee.remove', guaranteeId: id, ...of }]);
  }

  private kept(id: string, shared: boolean): KeptGuarantee | undefined {
    const data = this.store.data();
    return (shared ? data?.estate.guarantees : data?.site.guarantees)?.find((each) => each.id === id);
  }
}
