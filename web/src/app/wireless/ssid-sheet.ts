import { Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { asHeard } from '@iron-lattice/core/base';
import { asksPassphrase, asksWho, type SsidSecurity } from '@iron-lattice/core/document';
import { utf8Length, type Isolation, type Ssid } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { AtSites } from '../shell/at-sites';
import { CAP_FIELDS, capsReadable } from '../shell/caps-text';
import { EditForm } from '../shell/edit-form';
import { ReachCell } from '../shell/reach-cell';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Sheet } from '../ui/sheet';
import { RING, SECURITY_CHOICES, SECURITY_WORDS, securityHint } from './security-words';
import { SsidApart } from './ssid-apart';
import { SsidAsked } from './ssid-asked';
import { SsidPassphrase } from './ssid-passphrase';
import { SsidRing } from './ssid-ring';
import { SsidCaps } from './ssid-caps';
import { additionOf, changeOf } from './ssid-edit';
import { otherwiseWords } from './ssid-exception';
import { SsidFormer } from './ssid-former';
import { SsidBands } from './ssid-bands';
import { SsidBehaviour } from './ssid-behaviour';
import { SsidSenders } from './ssid-senders';
import { SsidToAll } from './ssid-to-all';
import { segmentChoices } from './segments-there';
import { SsidTunnel } from './ssid-tunnel';
import { lacksPassphrase, numberFlaw, textOf, type SsidText } from './ssid-text';
import { BeaconCell } from './beacon-cell';
import { TextCell } from '../ui/text-cell';
import { ChoiceCell } from '../ui/choice-cell';

/** Fields whose flaws stand beside them. */
const SHOWN = [
  'name',
  'passphrase',
  'segment',
  'bands',
  'purpose',
  'join',
  'stay',
  'most',
  'roam',
  'multicast',
  'tunnel',
  'steer',
  'hours',
  'portal',
  'former',
  'aps',
  'security',
  'ring',
  'keysAt',
  ...CAP_FIELDS,
];

/** An SSID's sheet, new or there already. */
@Component({
  selector: 'il-ssid-sheet',
  imports: [
    FormsModule,
    MatButtonModule,
    MatCheckboxModule,
    AtSites,
    BeaconCell,
    ChoiceCell,
    ReachCell,
    Sheet,
    SsidApart,
    SsidAsked,
    SsidBands,
    SsidBehaviour,
    SsidCaps,
    SsidFormer,
    SsidPassphrase,
    SsidRing,
    SsidSenders,
    SsidToAll,
    SsidTunnel,
    TextCell,
  ],
  template: `
    <il-sheet
      [focusFirst]="ssid() === null"
      [heading]="ssid()?.name ?? 'New SSID'"
      [note]="note()"
      (closed)="closed.emit()"
    >
      @if (mayDiffer()) {
        <button actions mat-stroked-button (click)="here.emit()">Otherwise here…</button>
      }
      @if (ssid() && session.mayChange()) {
        <button actions mat-stroked-button (click)="switch()">{{ ssid()!.off ? 'Switch on' : 'Switch off' }}</button>
      }
      @if (ssid() && session.mayChange()) {
        <button actions mat-stroked-button (click)="remove()">Remove SSID</button>
      }
      @if (session.mayChange()) {
        <button
          actions
          mat-flat-button
          type="submit"
          form="ssid-fields"
          [disabled]="form.busy() || !form.differs() || nowhere() || unready()"
        >
          {{ ssid() ? 'Put into the draft' : 'Add SSID' }}
        </button>
      }
      <form id="ssid-fields" (ngSubmit)="keep()">
        <div class="cells">
          @if (otherwise(); as fields) {
            <p class="cell full caution">
              Otherwise at {{ store.site()?.name }}: {{ fields }}. Here is what other sites have.
            </p>
          }
          <il-text-cell
            label="Name on the air"
            for="ssid-name"
            [hint]="nameHint()"
            [flaw]="problem()?.of('name')"
            [readonly]="!session.mayChange()"
            [value]="text().name"
            (typed)="set({ name: $event })"
          />
          <il-choice-cell
            label="Security"
            for="ssid-security"
            [options]="securities"
            [value]="text().ring ? ring : text().security"
            [disabled]="!session.mayChange()"
            [hint]="securityHint(text().security, text().bands, text().ring !== null)"
            [flaw]="problem()?.of('security')"
            (chosen)="secure($event)"
          />
          @if (text().ring) {
            <il-ssid-ring
              [ssid]="ssid()"
              [text]="text()"
              [problem]="problem()"
              [mayChange]="session.mayChange()"
              (changed)="set($event)"
            />
          } @else if (asksPassphrase(text().security)) {
            <il-ssid-passphrase
              [ssid]="ssid()"
              [text]="text()"
              [problem]="problem()"
              [mayChange]="session.mayChange()"
              (changed)="set($event)"
            />
          }
          @if (asksWho(text().security)) {
            <il-ssid-asked [reach]="text().reach" />
          }
          @if (asksPassphrase(text().security) && !text().ring) {
            <il-ssid-former
              [ssid]="ssid()"
              [text]="text()"
              [problem]="problem()"
              [mayChange]="session.mayChange()"
              (changed)="set($event)"
              (end)="endFormer()"
            />
          }
          <il-choice-cell
            label="Segment its clients join"
            for="ssid-segment"
            [hint]="
              text().tunnel && text().tunnel !== 'gateway'
                ? 'One of the site that they are carried to'
                : 'Each site looks it up by name'
            "
            [options]="segments()"
            [value]="text().segment"
            [disabled]="!session.mayChange()"
            [flaw]="problem()?.of('segment')"
            (chosen)="set({ segment: $event })"
          >
            <mat-checkbox
              [disabled]="!session.mayChange()"
              [checked]="text().byClass ?? false"
              (change)="set({ byClass: $event.checked || null })"
              >{{ ofClassWords() }}</mat-checkbox
            >
          </il-choice-cell>
          <il-ssid-tunnel
            [value]="text().tunnel"
            [problem]="problem()"
            [mayChange]="session.mayChange()"
            (changed)="set($event)"
          />
          <il-ssid-bands
            hint="6 GHz takes WPA3 or enhanced open, with management frames protected."
            [bands]="text().bands"
            [flaw]="problem()?.of('bands')"
            [mayChange]="session.mayChange()"
            (changed)="set({ bands: $event })"
          >
            @if (instead(); as other) {
              <p class="caution calm">
                {{ text().ring ? 'A key ring' : securityWords[text().security] }} is not for 6 GHz.
                <button mat-button type="button" (click)="set(other.to)">{{ other.words }}</button>
              </p>
            }
          </il-ssid-bands>
          <il-beacon-cell [of]="id()" [sent]="text()" />
          <il-ssid-apart
            [value]="text().isolation"
            [mayChange]="session.mayChange()"
            (ticked)="keepFrom($event.key, $event.kept)"
          />
          <il-reach-cell
            for="ssid-reach"
            [of]="id()"
            [reach]="text().reach"
            [disabled]="!session.mayChange()"
            (chosen)="set({ reach: $event })"
          />
          <il-ssid-senders
            [text]="text()"
            [problem]="problem()"
            [mayChange]="session.mayChange()"
            (changed)="set($event)"
          />
          <il-choice-cell
            label="On the air"
            for="ssid-hours"
            [hint]="
              text().hours ? 'By each site’s own clock; nobody is on it at other times' : 'Hours are said under Hours'
            "
            [options]="hours()"
            [value]="text().hours"
            [disabled]="!session.mayChange()"
            [flaw]="problem()?.of('hours')"
            (chosen)="set({ hours: $event })"
          />
          <il-choice-cell
            label="Guests sign in at"
            for="ssid-portal"
            [hint]="
              text().portal ? 'Its clients reach nothing until they are let in there' : 'Portals are said under Guests'
            "
            [options]="portals()"
            [value]="text().portal"
            [disabled]="!session.mayChange()"
            [flaw]="problem()?.of('portal')"
            (chosen)="set({ portal: $event })"
          />
          <il-ssid-caps
            [ssid]="ssid()"
            [text]="text()"
            [problem]="problem()"
            [mayChange]="session.mayChange()"
            (changed)="set({ caps: { ...text().caps, ...$event } })"
          />
          <il-ssid-behaviour
            [text]="text()"
            [problem]="problem()"
            [mayChange]="session.mayChange()"
            (changed)="set($event)"
          />
          <il-ssid-to-all
            [ssid]="ssid()"
            [text]="text()"
            [problem]="problem()"
            [mayChange]="session.mayChange()"
            (changed)="set($event)"
          />
          <il-text-cell
            label="What it is for"
            for="ssid-purpose"
            size="wide"
            hint="Found by it"
            [flaw]="problem()?.of('purpose')"
            [readonly]="!session.mayChange()"
            [value]="text().purpose"
            (typed)="set({ purpose: $event })"
          />
          @if (ssid() && shared.atEstate()) {
            <il-at-sites kind="ssid" stage="wireless" [id]="ssid()!.id" />
          }
          @if (other(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
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
export class SsidSheet {
  protected readonly store = inject(SiteStore);
  protected readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  /** Null for a new one. */
  readonly ssid = input.required<Ssid | null>();
  readonly closed = output<void>();
  /** To what one site has otherwise. */
  readonly here = output<void>();
  /** Id of the SSID that is in the draft now. */
  readonly kept = output<string>();

  protected readonly securities = SECURITY_CHOICES;
  protected readonly securityWords = SECURITY_WORDS;
  protected readonly securityHint = securityHint;
  protected readonly asksPassphrase = asksPassphrase;
  protected readonly asksWho = asksWho;
  protected readonly ring = RING;
  protected readonly hours = this.shared.hoursChoices;
  protected readonly portals = this.shared.portalChoices;
  protected readonly form = new EditForm<Ssid, SsidText>({
    kept: () => this.ssid(),
    idOf: ({ id }) => id,
    textOf: (ssid) => textOf(ssid, this.shared.newReach()),
  });
  protected readonly text = this.form.text;
  protected readonly segments = segmentChoices(this.text);
  protected readonly problem = this.form.problem;
  protected readonly id = computed(() => this.ssid()?.id ?? null);
  /** The name's length as it is counted, and as it is heard where that is not seen. */
  protected readonly nameHint = computed(() => {
    const { name } = this.text();
    const heard = asHeard(name);
    return `${utf8Length(name)} of 32 bytes${heard === name ? '' : `, heard as “${heard}”`}`;
  });
  /** What takes 6 GHz as well, where what is chosen does not. */
  protected readonly instead = computed((): { readonly to: Partial<SsidText>; readonly words: string } | null => {
    const { security, bands, ring } = this.text();
    if (!bands.includes('6') || !this.session.mayChange()) return null;
    if (ring) return { to: { bands: bands.filter((band) => band !== '6') }, words: 'Leave 6 GHz out' };
    if (security === 'wpa2-enterprise')
      return { to: { security: 'wpa2-wpa3-enterprise' }, words: 'Take both, and WPA3 alone at 6 GHz' };
    if (security === 'wpa2-psk')
      return { to: { security: 'wpa2-wpa3-psk' }, words: 'Take both, and WPA3 alone at 6 GHz' };
    return security === 'open' ? { to: { security: 'owe' }, words: 'Take enhanced open' } : null;
  });
  protected readonly unready = computed(() => {
    const text = this.text();
    return (
      lacksPassphrase(text, this.ssid()) ||
      !capsReadable(text.caps) ||
      Object.values(text.aps).some((ids) => ids.length === 0) ||
      [text.join, text.stay, text.most].some((each) => numberFlaw(each) !== '')
    );
  });
  protected readonly note = computed(() => {
    const reach = this.ssid()?.reach;
    if (this.ssid()?.off) return 'Switched off: all of it is kept, and no access point sends it.';
    if (!reach && this.shared.atEstate()) return 'Sent by the access points of every site it reaches.';
    if (!reach) return `Sent by the access points of ${this.store.site()?.name}.`;
    if (reach.kind === 'estate') return 'An edit applies to the whole estate.';
    return reach.siteIds.length === 1
      ? `Only at ${this.shared.atEstate() ? 'one' : 'this'} site.`
      : `An edit applies to all ${reach.siteIds.length} sites it reaches.`;
  });
  protected readonly otherwise = computed(() =>
    this.shared.atEstate() ? '' : otherwiseWords(this.ssid(), this.store.siteId()),
  );
  /** Whether one of several sites is in front. */
  protected readonly mayDiffer = computed(() => {
    const reach = this.ssid()?.reach;
    return !this.shared.atEstate() && reach && (reach.kind === 'estate' || reach.siteIds.length > 1);
  });

  protected readonly other = computed(() => this.form.other(SHOWN));
  /** Whether it would reach no site at all. */
  protected readonly nowhere = computed(() => {
    const { reach } = this.text();
    return reach.kind === 'sites' && reach.siteIds.length === 0;
  });

  protected set(change: Partial<SsidText>): void {
    this.form.put(change);
  }

  /** What classes do there, beside the segment that clients join. */
  protected readonly ofClassWords = computed(() => {
    const { ring, security } = this.text();
    if (ring) return 'but a key may lead to an access class, and clients of one join its segment';
    return asksWho(security)
      ? 'but whom a server gives an access class joins its segment'
      : 'but clients of an access class join its segment';
  });

  /** A kind of security, or a key ring. */
  protected secure(chosen: SsidSecurity | typeof RING): void {
    // Who asks who somebody is does so to give each what is theirs.
    const byClass = chosen !== RING && asksWho(chosen) && !asksWho(this.text().security) ? { byClass: true } : {};
    if (chosen !== RING) this.set({ security: chosen, ring: null, keysAt: null, ...byClass });
    else
      this.set({
        security: 'wpa2-psk',
        ring: this.ssid()?.ring ?? [],
        keysAt: this.ssid()?.keysAt ?? null,
        until: '',
      });
  }

  protected keepFrom(key: keyof Isolation, kept: boolean): void {
    const next = { ...this.text().isolation, [key]: kept };
    this.set({ isolation: Object.values(next).includes(true) ? next : null });
  }

  protected async keep(): Promise<void> {
    await this.form.send(async () => {
      const ssid = this.ssid();
      const { operation, secrets, id } = ssid ? changeOf(ssid, this.form) : additionOf(this.text());
      await this.store.edit([operation], secrets);
      this.kept.emit(id);
    });
  }

  protected async remove(): Promise<void> {
    if (await this.store.tryEdit([{ type: 'ssid.remove', ssidId: this.ssid()!.id }])) this.closed.emit();
  }

  /** Takes it off the air and keeps all of it, or sends it again. */
  protected async switch(): Promise<void> {
    const { id, off = null } = this.ssid()!;
    await this.store.tryEdit([{ type: 'ssid.set', ssidId: id, from: { off }, to: { off: off ? null : true } }]);
  }

  /** The old passphrase is right no more. */
  protected async endFormer(): Promise<void> {
    const { id, former = null } = this.ssid()!;
    await this.store.tryEdit([{ type: 'ssid.set', ssidId: id, from: { former }, to: { former: null } }]);
  }
}
