import { Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { Difference, Outage } from '@iron-lattice/core/document';
import { DraftReviews } from '../shell/draft-reviews';
import { counted } from '../ui/counted';
import { DifferenceLines } from '../ui/difference-lines';
import { ProgressCount } from '../ui/progress-count';
import { SeverityMark } from '../ui/severity-mark';
import { Cell } from '../ui/cell';
import { TextCell } from '../ui/text-cell';
import { awayFor, feltSegments, outageWords } from './outage-words';

/** Groups and sites shown at once, and devices named of one. */
const [MOST_SHOWN, MOST_NAMES] = [200, 40];
/** Segments and ways of being away that are shown. */
const [MOST_FELT, MOST_AWAY] = [8, 4];
const WAYS = ['What is told', 'Site', 'Device'] as const;

interface Told {
  readonly deviceId: string;
  readonly name: string;
  readonly siteName: string;
  readonly silent: boolean;
  /** What is expected to be away at it, in words. */
  readonly away: string;
}
/** Devices that would be told the very same. */
interface Group {
  readonly key: string;
  readonly difference: Difference;
  readonly devices: readonly Told[];
  /** What is expected to be away at some of them. */
  readonly away: readonly string[];
}

/** Every device of every site that the draft would tell something else: by what it is told, or by site. */
@Component({
  selector: 'il-draft-review',
  imports: [RouterLink, Cell, DifferenceLines, ProgressCount, SeverityMark, TextCell],
  template: `
    @if (!reviews.whole()) {
      <p class="looking" role="status">
        The sites it touches are being looked at.
        <il-progress-count [done]="reviews.progress().done" [of]="reviews.progress().of" what="sites looked at" />
      </p>
    }
    @if (reviews.devices() > 0) {
      <div class="cells">
        <il-cell label="Grouped by">
          <div class="choices" role="group" aria-label="Grouped by">
            @for (each of ways; track each) {
              <button type="button" [attr.aria-pressed]="way() === each" (click)="way.set(each)">{{ each }}</button>
            }
          </div>
        </il-cell>
        <il-text-cell
          label="Only devices or sites with"
          for="review-filter"
          example="name…"
          [value]="filter()"
          (typed)="filter.set($event)"
        />
        <il-cell label="Would be told something else" size="wide">
          <div class="value">
            {{ counted(shown(), 'device') }} at {{ counted(sites().length, 'site') }}, in
            {{ groups().length === 1 ? 'one way' : groups().length + ' ways' }}
          </div>
        </il-cell>
        <il-cell
          label="Expected to be away"
          size="full"
          [hint]="felt().length > 0 ? 'While devices take it, or from then on' : ''"
        >
          <ul class="felt">
            @for (each of felt().slice(0, mostFelt); track each.name) {
              <li>
                <b>{{ each.name }}</b>&ngsp;{{ awayFor(each.seconds) }}
                <span class="soft">{{ counted(each.devices, 'device') }} at {{ counted(each.sites, 'site') }}</span>
              </li>
            } @empty {
              <li class="soft">Nobody should feel it.</li>
            }
            @if (felt().length > mostFelt) {
              <li class="soft">and {{ counted(felt().length - mostFelt, 'segment') }} more</li>
            }
          </ul>
        </il-cell>
      </div>
    }
    @if (way() === 'What is told') {
      @for (group of groups().slice(0, most); track group.key) {
        <details [open]="groups().length < 4">
          <summary>
            <b>{{ counted(group.devices.length, 'device') }}</b>
            <span class="good">+{{ group.difference.added }}</span>
            <span class="bad">−{{ group.difference.removed }}</span>
            <span class="soft mono names">{{ names(group.devices) }}</span>
          </summary>
          @for (away of group.away; track away) {
            <p class="away caution">{{ away }}</p>
          }
          <il-difference-lines [lines]="group.difference.lines" />
        </details>
      }
      @if (groups().length > most) {
        <p class="soft looking">and {{ groups().length - most }} more ways; type a name to see fewer.</p>
      }
    } @else if (way() === 'Device') {
      @for (device of devices().slice(0, most); track device.deviceId) {
        <details>
          <summary>
            <b class="mono">{{ device.name }}</b>
            <span class="soft">{{ device.siteName }}</span>
            <span class="good">+{{ device.difference.added }}</span>
            <span class="bad">−{{ device.difference.removed }}</span>
            @if (device.silent) {
              <span class="caution">silent, told when it calls</span>
            }
          </summary>
          @if (device.away) {
            <p class="away caution">{{ device.away }}</p>
          }
          <il-difference-lines [lines]="device.difference.lines" />
        </details>
      }
      @if (devices().length > most) {
        <p class="soft looking">and {{ counted(devices().length - most, 'device') }} more; type a name to see fewer.</p>
      }
    } @else {
      @for (site of sites().slice(0, most); track site.siteId) {
        <details>
          <summary>
            <b>{{ site.name }}</b>
            <span>{{ counted(site.devices.length, 'device') }}</span>
            @if (site.counts.error > 0) {
              <span class="bad"><il-severity-mark severity="error" /> {{ site.counts.error }}</span>
            }
            @if (site.counts.warning > 0) {
              <span><il-severity-mark severity="warning" /> {{ site.counts.warning }}</span>
            }
            @if (site.broken.length > 0) {
              <span class="bad">{{ counted(site.broken.length, 'guarantee') }} broken</span>
            }
          </summary>
          <p class="looking">
            <a [routerLink]="['/sites', site.siteId, 'rollout']">Look from there</a>
          </p>
          @for (device of site.devices.slice(0, mostNames); track device.deviceId) {
            <div class="device">
              <b class="mono">{{ device.name }}</b> {{ device.silent ? 'silent, told when it calls' : '' }}
              <span class="caution">{{ device.away }}</span>
              <il-difference-lines [lines]="device.difference.lines" />
            </div>
          }
          @if (site.devices.length > mostNames) {
            <p class="soft looking">and {{ counted(site.devices.length - mostNames, 'device') }} more</p>
          }
        </details>
      }
    }
  `,
  styles: `
    .looking {
      padding: 8px 14px;
    }
    il-progress-count {
      margin-left: 10px;
    }
    details {
      border-bottom: 1px solid var(--rule);
    }
    summary {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 12px;
      align-items: baseline;
      padding: 6px 14px;
      cursor: pointer;
    }
    .names {
      font-size: 12px;
      overflow-wrap: anywhere;
    }
    .away {
      padding: 0 14px 4px;
    }
    .felt {
      list-style: none;
      margin: 0;
      padding: 0;
      display: flex;
      flex-wrap: wrap;
      gap: 2px 22px;
    }
    .device {
      padding: 4px 14px;
    }
  `,
})
export class DraftReviewView {
  protected readonly reviews = inject(DraftReviews);
  protected readonly counted = counted;
  protected readonly ways = WAYS;
  protected readonly most = MOST_SHOWN;
  protected readonly mostNames = MOST_NAMES;
  protected readonly way = signal<(typeof WAYS)[number]>('What is told');
  protected readonly filter = signal('');

  /** Sites with the devices that are told something else there, of those that are asked for. */
  protected readonly sites = computed(() => {
    const words = this.filter().trim().toLowerCase();
    return this.reviews.reviews().flatMap((review) => {
      const silent = new Set(review.silent);
      const whole = review.name.toLowerCase().includes(words);
      const devices = review.changes
        .filter(({ name }) => whole || name.toLowerCase().includes(words))
        .map(({ deviceId, name, told, away }) => ({
          ...{ deviceId, name, told, siteName: review.name, silent: silent.has(deviceId) },
          away: this.wordsOf(review.outages[away] ?? [], review.segments),
          difference: review.differences[told]!,
        }));
      return devices.length > 0 ? [{ ...review, devices }] : [];
    });
  });
  protected readonly devices = computed(() => this.sites().flatMap(({ devices }) => devices));
  protected readonly shown = computed(() => this.sites().reduce((sum, { devices }) => sum + devices.length, 0));
  /** The largest first. */
  protected readonly groups = computed((): readonly Group[] => {
    const groups = new Map<string, { difference: Difference; devices: Told[] }>();
    for (const { devices } of this.sites())
      for (const { told, difference, ...device } of devices) {
        const group = groups.get(told);
        if (group) group.devices.push(device);
        else groups.set(told, { difference, devices: [device] });
      }
    return [...groups]
      .map(([key, group]) => {
        const away = new Set(group.devices.map((device) => device.away).filter((words) => words !== ''));
        return { key, ...group, away: [...away].slice(0, MOST_AWAY) };
      })
      .sort((a, b) => b.devices.length - a.devices.length);
  });

  /** What segments feel of it, at the sites that are asked for. */
  protected readonly felt = computed(() => {
    const asked = new Set(this.sites().map(({ siteId }) => siteId));
    return feltSegments(this.reviews.reviews().filter(({ siteId }) => asked.has(siteId)));
  });
  protected readonly awayFor = awayFor;
  protected readonly mostFelt = MOST_FELT;

  private wordsOf(outages: readonly Outage[], segments: Readonly<Record<number, string>>): string {
    const words = outages.map((outage) => outageWords(outage, (vlan) => segments[vlan] ?? `VLAN ${vlan}`));
    return words.length === 0 ? '' : `Away: ${words.join('; ')}`;
  }

  protected names(devices: readonly Told[]): string {
    const names = devices.slice(0, MOST_NAMES).map(({ name, silent }) => (silent ? `${name} (silent)` : name));
    return `${names.join(', ')}${devices.length > MOST_NAMES ? ` and ${devices.length - MOST_NAMES} more` : ''}`;
  }
}
