import { readLasts } from '@iron-lattice/core/base';
import { HttpClient } from '@angular/common/http';
import { Component, DestroyRef, computed, effect, inject, output, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { SiteMends } from '@iron-lattice/core/assess';
import type { GuestWay } from '@iron-lattice/core/guests';
import type { GuestNetwork, GuestNetworkPart, GuestNetworkWish } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { attempt, problemOf, type Problem } from '../session/problem';
import { CapsCells } from '../shell/caps-cells';
import { capsOf, capsReadable, NO_CAPS, type CapsText } from '../shell/caps-text';
import { EstateStore } from '../shell/estate-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';

/** How long somebody may go on typing before it is composed anew, in milliseconds. */
const SOON_MS = 250;
const SECURITIES: readonly Choice[] = [
  { value: 'open', label: 'Open: every phone joins, the air is not encrypted' },
  { value: 'owe', label: 'Enhanced open (OWE): encrypted; phones of before 2019 do not join' },
];
const BANDS = ['2.4', '5', '6'] as const;
const KINDS: Readonly<Record<GuestNetworkPart['kind'], string>> = {
  segment: 'Segment',
  portal: 'Portal',
  ssid: 'SSID',
  rule: 'Rule',
  guarantee: 'Guarantee',
};

interface Text {
  readonly name: string;
  readonly siteIds: readonly string[];
  readonly security: GuestNetworkWish['security'];
  readonly bands: GuestNetworkWish['bands'];
  readonly ways: readonly GuestWay[];
  readonly visit: string;
  readonly hours: string | null;
  readonly caps: CapsText;
  readonly dns: string;
}
type Composed = GuestNetwork & { readonly mends: readonly SiteMends[] };

/** A guest network in one go: name and place are enough, and every part of it is shown before any is made. */
@Component({
  selector: 'il-guest-network-sheet',
  imports: [FormsModule, MatButtonModule, MatCheckboxModule, CapsCells, Cell, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet
      [focusFirst]="true"
      heading="New guest network"
      note="Each part lies in the draft afterwards, and is changed where it lives."
      (closed)="closed.emit()"
    >
      <button actions mat-flat-button type="submit" form="guest-network" [disabled]="busy() || !ready()">
        {{ label() }}
      </button>
      <div class="both">
        <form id="guest-network" (ngSubmit)="make()">
          <div class="cells">
            <il-text-cell
              label="Name on the air"
              for="network-name"
              example="Skerrow Visitors"
              hint="Of its segment and its portal too"
              [flaw]="text().name === '' ? '' : problem()?.of('name')"
              [value]="text().name"
              (typed)="put({ name: $event })"
            />
            <il-choice-cell
              label="Where"
              for="network-sites"
              example="choose sites"
              [several]="true"
              [flaw]="text().siteIds.length === 0 ? '' : problem()?.of('siteIds')"
              [options]="estate.siteChoices()"
              [value]="text().siteIds"
              (chosen)="put({ siteIds: $event })"
            />
            <il-cell label="Ways in" [flaw]="text().ways.length === 0 ? 'Choose one at least.' : ''">
              <mat-checkbox
                name="network-accept"
                [ngModel]="text().ways.includes('accept')"
                (ngModelChange)="tick('accept', $event)"
                >Press to accept</mat-checkbox
              >
              <mat-checkbox
                name="network-code"
                [ngModel]="text().ways.includes('code')"
                (ngModelChange)="tick('code', $event)"
                >Visit code</mat-checkbox
              >
            </il-cell>
            <il-text-cell
              label="A visit lasts"
              for="network-visit"
              hint="8 h, 90 min, 2 d"
              [flaw]="visitFlaw() || problem()?.of('visit')"
              [value]="text().visit"
              (typed)="put({ visit: $event })"
            />
            <il-choice-cell
              label="Joined"
              for="network-security"
              size="wide"
              [options]="securities"
              [flaw]="problem()?.of('security')"
              [value]="text().security"
              (chosen)="put({ security: $event })"
            />
            <il-choice-cell
              label="Bands, GHz"
              for="network-bands"
              [several]="true"
              [options]="bands"
              [flaw]="text().bands.length === 0 ? 'Choose one at least.' : problem()?.of('bands')"
              [value]="text().bands"
              (chosen)="put({ bands: $event })"
            />
            <il-choice-cell
              label="On the air"
              for="network-hours"
              [options]="shared.hoursChoices()"
              [value]="text().hours"
              (chosen)="put({ hours: $event })"
            />
            <il-caps-cells
              of="network"
              together="At each site by itself"
              [text]="text().caps"
              [problem]="problem()"
              (changed)="put({ caps: merged($event) })"
            />
            <il-text-cell
              label="Name servers"
              for="network-dns"
              [mono]="true"
              example="the gateway"
              hint="One that leaves out what nobody should find here filters content; parted by commas"
              [flaw]="problem()?.of('dns')"
              [value]="text().dns"
              (typed)="put({ dns: $event })"
            />
            @if (other(); as message) {
              <p class="cell full flaw" role="alert">{{ message }}</p>
            }
          </div>
        </form>
        <section aria-label="What it is made of">
          <h3>What it is made of</h3>
          @if (composed(); as made) {
            <ul [class.old]="!ready()">
              @for (part of made.parts; track $index) {
                <li>
                  <b>{{ kinds[part.kind] }}</b> {{ part.name }}
                  @if (part.siteId; as id) {
                    <span class="soft">at {{ siteName(id) }}</span>
                  }
                  <p class="soft">{{ part.words }}</p>
                </li>
              }
              @for (site of made.mends; track site.siteId) {
                @for (step of site.steps; track step.finding.key) {
                  <li>
                    <b>Mend</b> {{ step.finding.mend?.label }} <span class="soft">at {{ site.name }}</span>
                  </li>
                }
              }
            </ul>
          } @else {
            <p class="soft">{{ waiting() }}</p>
          }
        </section>
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .both {
      display: grid;
      grid-template-columns: 1fr minmax(260px, 38%);
    }
    section {
      padding: 10px 14px 14px;
      border-left: 1px solid var(--rule);
    }
    h3 {
      margin: 0 0 6px;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    ul.old {
      opacity: 0.55;
    }
    li {
      padding: 5px 0;
      border-bottom: 1px solid var(--rule);
      overflow-wrap: anywhere;
    }
    li b {
      font:
        500 13px/18px 'Barlow Semi Condensed',
        Barlow;
      color: var(--soft);
      margin-right: 4px;
    }
    p {
      margin: 0;
    }
    @media (max-width: 720px) {
      .both {
        grid-template-columns: minmax(0, 1fr);
      }
      section {
        border-left: 0;
        border-top: 1px solid var(--ink);
      }
    }
  `,
})
export class GuestNetworkSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly shared = inject(SharedStore);
  protected readonly estate = inject(EstateStore);
  readonly closed = output<void>();
  /** Id of the portal that guests are held at. */
  readonly made = output<string>();
  protected readonly securities = SECURITIES;
  protected readonly bands = BANDS.map((value) => ({ value, label: value }));
  protected readonly kinds = KINDS;
  protected readonly text = signal<Text>({
    ...{ name: '', siteIds: this.store.siteId() === null ? [] : [this.store.siteId()!], security: 'open' },
    ...{ bands: ['2.4', '5'], ways: ['accept'], visit: '8 h', hours: null, caps: NO_CAPS, dns: '' },
  });
  protected readonly composed = signal<Composed | null>(null);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);
  /** What the composed one was composed of. */
  private readonly composedOf = signal('');
  protected readonly visitFlaw = computed(() =>
    Number.isNaN(readLasts(this.text().visit)) ? 'Write 90 min, 8 h or 2 d.' : '',
  );
  /** What is asked for; null while it cannot be read, or while name and place are missing. */
  private readonly wish = computed((): GuestNetworkWish | null => {
    const { visit, caps, dns, ...text } = this.text();
    const missing = [text.name.trim(), ...[text.siteIds, text.ways, text.bands].map(({ length }) => length || '')];
    if (missing.includes('') || this.visitFlaw() !== '' || !capsReadable(caps)) return null;
    const servers = dns.split(/[\s,;]+/).filter((each) => each !== '');
    return { ...text, name: text.name.trim(), visit: readLasts(visit), caps: capsOf(caps), dns: [...new Set(servers)] };
  });
  /** Whether what is shown is what would be made of what is typed. */
  protected readonly ready = computed(
    () => this.composed() !== null && this.wish() !== null && this.composedOf() === this.key(),
  );
  private readonly key = computed(() =>
    JSON.stringify([this.wish(), this.store.draft()?.id, this.store.draft()?.head]),
  );
  private readonly edits = computed(() => {
    const { operations = [], mends = [] } = this.composed() ?? {};
    return [...operations, ...mends.flatMap(({ steps }) => steps.flatMap((step) => step.operations))];
  });
  protected readonly label = computed(() =>
    this.ready() ? `Put ${counted(this.edits().length, 'edit')} into the draft` : 'Put into the draft',
  );
  protected readonly other = computed(() => {
    const shown = ['name', 'siteIds', 'visit', 'security', 'bands', 'dns'];
    const problem = this.problem();
    const said = ({ field = '' }: { field?: string }): boolean => shown.includes(field) || field.startsWith('caps.');
    return problem && !problem.flaws.some(said) ? problem.message : '';
  });
  protected readonly waiting = computed(() => {
    if (this.problem()) return 'Nothing, as it stands: see what is wrong at the fields.';
    return this.wish() === null ? 'Say its name and where it is to be.' : 'Composing…';
  });

  constructor() {
    let timer: ReturnType<typeof setTimeout> | undefined;
    effect(() => {
      const key = this.key();
      untracked(() => {
        clearTimeout(timer);
        this.problem.set(null);
        if (this.wish() !== null) timer = setTimeout(() => void this.compose(key), SOON_MS);
        else this.composed.set(null);
      });
    });
    inject(DestroyRef).onDestroy(() => clearTimeout(timer));
  }

  private async compose(key: string): Promise<void> {
    const [wish, draft] = [this.wish(), this.store.draft()];
    if (!wish || !draft) return;
    const answer = await firstValueFrom(this.http.post<Composed>(`/api/drafts/${draft.id}/guest-network`, wish)).then(
      (composed) => ({ composed }),
      (error: unknown) => ({ problem: problemOf(error) }),
    );
    if (key !== untracked(this.key)) return; // somebody typed on
    this.composedOf.set(key);
    this.composed.set('composed' in answer ? answer.composed : null);
    this.problem.set('problem' in answer ? answer.problem : null);
  }

  protected put(change: Partial<Text>): void {
    this.text.update((text) => ({ ...text, ...change }));
  }

  protected merged = (change: Partial<CapsText>): CapsText => ({ ...this.text().caps, ...change });

  protected tick(way: GuestWay, on: boolean): void {
    const others = this.text().ways.filter((each) => each !== way);
    this.put({ ways: on ? [...others, way] : others });
  }

  protected siteName = (id: string): string =>
    this.estate.siteChoices().find(({ value }) => value === id)?.label ?? 'a site that is gone';

  protected async make(): Promise<void> {
    const composed = this.composed();
    if (!composed || !this.ready()) return;
    if (await attempt(this.busy, this.problem, () => this.store.edit(this.edits()))) this.made.emit(composed.portalId);
  }
}
