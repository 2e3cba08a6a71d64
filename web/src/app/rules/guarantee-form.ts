import { Component, computed, inject, resource, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { USUAL_WITHIN } from '@iron-lattice/core/assess';
import type { KeptGuarantee, Operation } from '@iron-lattice/core/intent';
import { readEnds, readServices } from '@iron-lattice/core/rules';
import { EditForm } from '../shell/edit-form';
import { EstateStore } from '../shell/estate-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { TrafficCell } from '../shell/traffic-cell';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { numberTyped } from '../ui/number-typed';
import { TextCell } from '../ui/text-cell';
import { RulesApi } from './rules-api';
import { RulesFacts } from './rules-facts';

interface GuaranteeText {
  readonly kind: KeptGuarantee['kind'];
  readonly from: string;
  readonly to: string;
  /** Id of the site at which that is; null: where it is from. */
  readonly toSite: string | null;
  readonly services: string;
  readonly besides: string;
  /** Of one that somebody is served: seconds, and uplinks that fail. */
  readonly within: string;
  readonly fails: 1 | 2;
  /** Of one to another site: hubs that fail; null: none. */
  readonly hubs: 1 | 2 | null;
  /** Seconds that somebody waits then at the most; empty: as long as it takes to go another way. */
  readonly wait: string;
  readonly purpose: string;
}
const NEW: GuaranteeText = {
  ...{ kind: 'never', from: '', to: '', toSite: null, services: 'any', besides: '' },
  ...{ within: `${USUAL_WITHIN}`, fails: 1, hubs: null, wait: '', purpose: '' },
};

/** A guarantee that is to be added: at the site in front, at every site, or at those with a tag. */
@Component({
  selector: 'il-guarantee-form',
  imports: [MatButtonModule, Cell, ChoiceCell, TrafficCell, TextCell],
  template: `
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
      @if (typed.kind === 'served') {
        <il-text-cell
          label="Waits at most, s"
          for="guarantee-within"
          [mono]="true"
          [flaw]="problem()?.of('within')"
          [value]="typed.within"
          (typed)="put({ within: $event })"
        />
        <il-choice-cell
          label="When"
          for="guarantee-fails"
          hint="As unluckily as checks may fall"
          [options]="failing"
          [value]="typed.fails"
          (chosen)="put({ fails: $event })"
        />
      } @else {
        <il-traffic-cell
          of="ends"
          label="To"
          for="guarantee-to"
          [names]="there()"
          [value]="typed.to"
          [flaw]="problem()?.of('to')"
          (typed)="put({ to: $event })"
        />
        @if (sites().length > 0) {
          <il-choice-cell
            label="At"
            for="guarantee-site"
            hint="Through the tunnels between sites"
            [options]="sites()"
            [flaw]="problem()?.of('toSite')"
            [value]="typed.toSite"
            (chosen)="put({ toSite: $event })"
          />
        }
        @if (typed.kind === 'always' && typed.toSite !== null) {
          <il-choice-cell
            label="Even when"
            for="guarantee-hubs"
            [options]="hubsFail"
            [value]="typed.hubs"
            (chosen)="put({ hubs: $event })"
          />
          @if (typed.hubs !== null) {
            <il-text-cell
              label="Waits at most, s"
              for="guarantee-wait"
              example="any while"
              hint="Then a tunnel may be cut as well, as unluckily as questions may fall"
              [mono]="true"
              [flaw]="problem()?.of('within')"
              [value]="typed.wait"
              (typed)="put({ wait: $event })"
            />
          }
        }
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
          [names]="there()"
          [value]="typed.besides"
          hint="Such as gateway"
          (typed)="put({ besides: $event })"
        />
      }
      <il-text-cell
        label="What it is for"
        for="guarantee-purpose"
        hint="Found by it"
        [flaw]="problem()?.of('purpose')"
        [value]="typed.purpose"
        (done)="put({ purpose: $event })"
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
          @if (!shared.atEstate()) {
            <button mat-flat-button [disabled]="form.busy()" (click)="add(false)">Guarantee at this site</button>
          }
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
  `,
  styles: `
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
export class GuaranteeForm {
  private readonly store = inject(SiteStore);
  private readonly facts = inject(RulesFacts);
  protected readonly shared = inject(SharedStore);
  protected readonly kinds = [
    { value: 'never', label: 'Never reaches' },
    { value: 'always', label: 'Always reaches' },
    { value: 'only', label: 'Only this reaches' },
    { value: 'served', label: 'Stays on the internet' },
  ];
  protected readonly hubsFail: readonly Choice[] = [
    { value: null, label: 'all hubs are there' },
    { value: 1, label: 'any one hub fails' },
    { value: 2, label: 'any two hubs fail' },
  ];
  private readonly estate = inject(EstateStore);
  private readonly api = inject(RulesApi);
  /** Where what is reached may be, once sites are joined. */
  protected readonly sites = computed((): readonly Choice[] => {
    if (!this.shared.estate()?.overlay) return [];
    const here = this.shared.atEstate() ? null : this.store.siteId();
    const same = { value: null, label: here ? 'this site' : 'the same site' };
    return [same, ...this.estate.siteChoices().filter(({ value }) => value !== here)];
  });
  /** Names of segments there. */
  private readonly segmentsThere = resource({
    params: () => this.text().toSite ?? undefined,
    loader: ({ params }) => this.api.segmentsAt(params),
  });
  /** What is reached is called as it is there; null: as it is here. */
  protected readonly there = computed(() => {
    if (this.text().toSite === null) return null;
    return {
      ...this.facts.known(),
      segment: this.segmentsThere.hasValue() ? this.segmentsThere.value() : [],
      device: [],
    };
  });
  protected readonly failing: readonly Choice[] = [
    { value: 1, label: 'any one uplink fails' },
    { value: 2, label: 'any two uplinks fail' },
  ];
  protected readonly form = new EditForm<never, GuaranteeText>({ kept: () => null, idOf: () => '', textOf: () => NEW });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly tag = signal('');
  protected readonly flaw = computed(() => {
    const { bad } = readServices(this.text().services);
    return bad.length > 0 ? `“${bad[0]}” is no protocol with ports, such as tcp 443.` : this.problem()?.of('services');
  });
  protected readonly other = computed(() =>
    this.form.other(['from', 'to', 'toSite', 'services', 'besides', 'within', 'purpose']),
  );
  /** Guarantees that most sites want, in terms of the segments that there are. */
  protected readonly ready = computed(() => {
    const known = this.facts.known().segment;
    const site = this.facts.resolved();
    // Over all sites, devices live in the segment that goes by that name at most of them.
    const home = site?.management.name ?? (known.includes('Management') ? 'Management' : known[0]);
    if (home === undefined) return [];
    const named = (names: readonly string[]): string => names.map((name) => `segment ${name}`).join(', ');
    const others = known.filter((name) => name !== home);
    const guests = others.filter((name) => /guest|visitor|passenger|public/i.test(name));
    return [
      {
        label: 'Guests never reach private space',
        text: { ...NEW, from: named(guests.length > 0 ? guests : others.slice(-1)), to: 'private', besides: 'gateway' },
      },
      {
        label: 'Nothing but management reaches device management',
        text: { ...NEW, from: [named(others), 'internet'].filter((part) => part !== '').join(', '), to: named([home]) },
      },
      {
        label: 'Devices always reach the controller',
        text: { ...NEW, kind: 'always' as const, from: named([home]), to: 'controller', services: 'tcp 443' },
      },
      {
        label: `Everybody is back on the internet within ${USUAL_WITHIN} s`,
        text: { ...NEW, kind: 'served' as const, from: 'any' },
      },
    ];
  });

  protected put(change: Partial<GuaranteeText>): void {
    this.form.put(change);
  }

  protected async add(everywhere: boolean): Promise<void> {
    const { kind, from, to, toSite, services, besides, within, fails, hubs, wait, purpose } = this.text();
    const known = this.facts.known();
    const there = this.there() ?? known;
    const read = readServices(services);
    if (read.bad.length > 0) return;
    const spared = readEnds(besides, there);
    const isServed = kind === 'served';
    const guarantee: KeptGuarantee = {
      id: crypto.randomUUID(),
      kind,
      from: readEnds(from, known),
      to: isServed ? [{ kind: 'internet' }] : readEnds(to, there),
      services: isServed ? [{ protocol: 'any' }] : read.services,
      ...(toSite === null || isServed ? {} : { toSite }),
      ...(toSite !== null && kind === 'always' && hubs !== null
        ? { fails: hubs, ...(wait.trim() === '' ? {} : { within: numberTyped(wait) ?? -1 }) }
        : {}),
      ...(isServed ? { within: numberTyped(within) ?? -1, fails } : {}),
      ...(spared.length > 0 && !isServed ? { besides: spared } : {}),
      ...(everywhere && this.tag().trim() ? { tag: this.tag().trim() } : {}),
      ...(purpose.trim() ? { purpose: purpose.trim() } : {}),
    };
    const of = everywhere ? { shared: true as const } : { siteId: this.store.siteId()! };
    const operation: Operation = { type: 'guarantee.add', guarantee, ...of };
    if (await this.form.send(() => this.store.edit([operation]))) this.form.reset();
  }
}
