import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { guaranteeWords } from '@iron-lattice/core/assess';
import type { KeptGuarantee } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { EstateStore } from '../shell/estate-store';
import { SiteFindingsStore } from '../shell/site-findings';
import { counted } from '../ui/counted';
import { GuaranteeForm } from './guarantee-form';

/** Sites at which one is broken that are named. */
const MOST_NAMED = 6;

/** A guarantee with how it stands: at the site in front, or over all sites. */
interface Line {
  readonly id: string;
  readonly shared: boolean;
  readonly words: string;
  readonly state: 'holds' | 'broken' | 'void' | 'looking';
  readonly where: string;
  readonly purpose: string;
  /** A packet that should fare otherwise, or where it is broken or void. */
  readonly packet: string;
  readonly why: string;
}

/** What has to hold for every packet, whatever the rules are: each proven on every edit. */
@Component({
  selector: 'il-guarantees-view',
  imports: [MatButtonModule, GuaranteeForm],
  providers: [SiteFindingsStore],
  template: `
    <ul aria-label="Guarantees">
      @for (line of lines(); track line.id) {
        <li [class.shown]="line.id === shown()">
          <span class="state" [class]="line.state">{{ words[line.state] }}</span>
          <div>
            <b>{{ line.words }}</b>&ngsp;
            <span class="soft">{{ line.where }}</span>
            @if (line.purpose) {
              <span class="soft">· {{ line.purpose }}</span>
            }
            @if (line.packet || line.why) {
              <p>
                <span class="mono">{{ line.packet }}</span>{{ line.packet && line.why ? ': ' : '' }}{{ line.why }}
              </p>
            }
          </div>
          @if (session.mayChange()) {
            <button mat-button (click)="remove(line)">Remove</button>
          }
        </li>
      } @empty {
        <li class="soft none">
          No guarantee yet. Say what must hold whatever the rules are, and every edit is proven against it.
        </li>
      }
    </ul>
    @if (session.mayChange()) {
      <il-guarantee-form />
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
  `,
})
export class GuaranteesView {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  private readonly estate = inject(EstateStore);
  private readonly findings = inject(SiteFindingsStore);
  protected readonly session = inject(SessionStore);
  /** Id of one to point at. */
  readonly shown = input<string | null>(null);
  protected readonly words = { holds: 'holds', broken: 'broken', void: 'not here', looking: '…' } as const;
  protected readonly lines = computed(() => (this.shared.atEstate() ? this.everywhere() : this.here()));

  /** As they stand at the site in front. */
  private here(): Line[] {
    return (this.store.consequences()?.guarantees ?? []).map(({ id, shared, words, state, packet, at, why }) => {
      const kept = this.kept(id, shared);
      const told = packet === undefined ? '' : `${packet}${at ? `, ${at}` : ''}`;
      return {
        ...{ id, shared, words, state, packet: told },
        where: shared ? `every site${kept?.tag ? ` with the tag ${kept.tag}` : ''}` : 'this site',
        purpose: kept?.purpose ?? '',
        why: why ?? (state === 'void' ? 'It names something that this site does not have.' : ''),
      };
    });
  }

  /** As those that sites share stand over all of them; sites come in one after the other. */
  private everywhere(): Line[] {
    const sites = this.estate.estate()?.sites ?? [];
    const found = this.findings.bySite();
    const names = new Map(sites.map(({ id, name }) => [id, name]));
    return (this.shared.estate()?.guarantees ?? []).map((guarantee) => {
      const { id, tag, purpose } = guarantee;
      const broken = [...found.values()].filter(({ sharedBroken }) => sharedBroken.includes(id));
      const count = this.shared.counts().get(id);
      const whole = sites.length > 0 && sites.every((site) => found.has(site.id));
      const some = broken.slice(0, MOST_NAMED).map(({ siteId }) => names.get(siteId) ?? siteId);
      const more = broken.length > some.length ? ` and ${counted(broken.length - some.length, 'more site')}` : '';
      const lacks =
        count && count.lacking > 0 ? `${counted(count.lacking, 'site')} have something missing that it names` : '';
      return {
        id,
        shared: true,
        words: guaranteeWords(guarantee, (id) => names.get(id)),
        state: broken.length > 0 ? 'broken' : whole ? 'holds' : 'looking',
        where: `${tag ? `sites with the tag ${tag}` : 'every site'}${count ? `, ${counted(count.reached, 'site')} now` : ''}`,
        purpose: purpose ?? '',
        packet: '',
        why: [
          ...(broken.length > 0 ? [`Broken at ${some.join(', ')}${more}.`] : []),
          ...(lacks ? [`${lacks}.`] : []),
          ...(whole ? [] : [`${found.size} of ${counted(sites.length, 'site')} looked at.`]),
        ].join(' '),
      };
    });
  }

  protected remove({ id, shared }: Line): void {
    const of = shared ? { shared: true as const } : { siteId: this.store.siteId()! };
    void this.store.tryEdit([{ type: 'guarantee.remove', guaranteeId: id, ...of }]);
  }

  private kept(id: string, shared: boolean): KeptGuarantee | undefined {
    const list = shared ? this.shared.estate()?.guarantees : this.store.site()?.guarantees;
    return list?.find((each) => each.id === id);
  }
}
