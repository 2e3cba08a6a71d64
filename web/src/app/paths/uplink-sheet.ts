import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SIX_WAYS, UPLINK_WAYS, usualMtu, type UplinkEntry } from '@iron-lattice/core/intent';
import { holdOf, healthy, targetWords, wronglyGoneEvery } from '@iron-lattice/core/paths';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { fareWords, titleOf, type UplinkRow } from './path-rows';
import { PathsStore } from './paths-store';
import { entryTyped, numberTyped, textOf, watchTyped, type UplinkText } from './uplink-text';
import { megabytesWords, pointOf, secondsWords, WatchCurve } from './watch-curve';

const FIELDS = [
  ...['title', 'fixed', 'login', 'apn', 'fixed6', 'vlan', 'mtu', 'mac', 'dns', 'down', 'up', 'allowance'],
  ...['anew', 'price', 'role', 'weight', 'turn', 'watch'],
] as const;

/** One uplink: how it comes to an address, what it can do, how it is used, and how it is watched; goes into the draft as it is said. */
@Component({
  selector: 'il-uplink-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, Sheet, TextCell, WatchCurve],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange() && entry() !== null && row().socket.role === 'wan') {
        <button actions mat-stroked-button type="button" (click)="make(null)">As usual again</button>
      }
      @if (session.mayChange() && row().socket.role !== 'wan') {
        <button actions mat-stroked-button type="button" (click)="make(null)">No uplink any more</button>
      }
      <div class="cells">
        <il-text-cell
          label="Called"
          for="uplink-title"
          [example]="row().port"
          [most]="40"
          [flaw]="problem()?.of('title')"
          [readonly]="!session.mayChange()"
          [value]="text().title"
          (typed)="form.put({ title: $event })"
          (done)="send()"
        />
        <il-choice-cell
          label="Comes to its address by"
          for="uplink-way"
          [disabled]="!session.mayChange()"
          [options]="ways()"
          [value]="text().way"
          [hint]="given()"
          (chosen)="set({ way: $event })"
        />
        @if (text().way === 'static') {
          <il-text-cell
            label="Address with its length"
            for="uplink-address"
            example="203.0.113.11/29"
            [mono]="true"
            [flaw]="problem()?.of('fixed')"
            [readonly]="!session.mayChange()"
            [value]="text().address"
            (typed)="form.put({ address: $event })"
            (done)="send()"
          />
          <il-text-cell
            label="Gateway of the provider"
            for="uplink-gateway"
            example="203.0.113.9"
            [mono]="true"
            [hint]="waitsFor()"
            [readonly]="!session.mayChange()"
            [value]="text().gateway"
            (typed)="form.put({ gateway: $event })"
            (done)="send()"
          />
        }
        @if (text().way === 'pppoe') {
          <il-text-cell
            label="Name at the provider"
            for="uplink-user"
            [flaw]="problem()?.of('login')"
            [readonly]="!session.mayChange()"
            [value]="text().user"
            (typed)="form.put({ user: $event })"
            (done)="send()"
          />
          <il-text-cell
            label="Password at the provider"
            for="uplink-password"
            kind="password"
            autocomplete="new-password"
            [example]="entry()?.login ? 'kept; type another' : ''"
            [hint]="waitsFor()"
            [readonly]="!session.mayChange()"
            [value]="text().password"
            (typed)="form.put({ password: $event })"
            (done)="send()"
          />
        }
        @if (text().way === 'cellular') {
          <il-text-cell
            label="Access point of the network"
            for="uplink-apn"
            example="the network’s own"
            [mono]="true"
            [flaw]="problem()?.of('apn')"
            [readonly]="!session.mayChange()"
            [value]="text().apn"
            (typed)="form.put({ apn: $event })"
            (done)="send()"
          />
        }
        <il-text-cell
          label="Down, Mb/s"
          for="uplink-down"
          [mono]="true"
          example="not known"
          [flaw]="problem()?.of('down')"
          [readonly]="!session.mayChange()"
          [value]="text().down"
          (typed)="form.put({ down: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="Up, Mb/s"
          for="uplink-up"
          [mono]="true"
          example="not known"
          [flaw]="problem()?.of('up')"
          [readonly]="!session.mayChange()"
          [value]="text().up"
          (typed)="form.put({ up: $event })"
          (done)="send()"
        >
          @if (session.mayChange()) {
            <button beside mat-stroked-button type="button" [disabled]="measuring()" (click)="measure()">
              {{ measuring() ? 'Measuring …' : 'Measure' }}
            </button>
          }
        </il-text-cell>
        <il-choice-cell
          label="Is used"
          for="uplink-role"
          [flaw]="problem()?.of('role')"
          [disabled]="!session.mayChange()"
          [options]="roles"
          [value]="text().role"
          (chosen)="set({ role: $event })"
        />
        @if (text().role === 'shares') {
          <il-text-cell
            label="Weight of its share"
            for="uplink-weight"
            [mono]="true"
            [hint]="shareHint()"
            [flaw]="problem()?.of('weight')"
            [readonly]="!session.mayChange()"
            [value]="text().weight"
            (typed)="form.put({ weight: $event })"
            (done)="send()"
          />
        } @else {
          <il-text-cell
            label="Turn among standbys"
            for="uplink-turn"
            [mono]="true"
            hint="The lowest is used first"
            [flaw]="problem()?.of('turn')"
            [readonly]="!session.mayChange()"
            [value]="text().turn"
            (typed)="form.put({ turn: $event })"
            (done)="send()"
          />
        }
        <il-text-cell
          label="Gigabytes a month that are paid for"
          for="uplink-allowance"
          [mono]="true"
          example="as much as one likes"
          [flaw]="problem()?.of('allowance')"
          [readonly]="!session.mayChange()"
          [value]="text().allowance"
          (typed)="form.put({ allowance: $event })"
          (done)="send()"
        />
        @if (text().allowance !== '') {
          <il-text-cell
            label="Begins anew on day"
            for="uplink-anew"
            [mono]="true"
            [flaw]="problem()?.of('anew')"
            [readonly]="!session.mayChange()"
            [value]="text().anew"
            (typed)="form.put({ anew: $event })"
            (done)="send()"
          />
          <il-text-cell
            label="Price of a gigabyte beyond it"
            for="uplink-price"
            [mono]="true"
            example="none"
            [flaw]="problem()?.of('price')"
            [readonly]="!session.mayChange()"
            [value]="text().price"
            (typed)="form.put({ price: $event })"
            (done)="send()"
          />
        }
        <il-cell label="Noticed when it is gone" size="wide" [hint]="costWords()">
          <il-watch-curve [watch]="watch()" (chosen)="choose($event)" />
        </il-cell>
        <il-text-cell
          label="Asked, one a line"
          for="uplink-targets"
          size="wide"
          [mono]="true"
          [rows]="3"
          hint="ping gateway · ping 192.0.2.1 · dns 192.0.2.53 gull.example · http 192.0.2.80. It counts as lost when none answers."
          [flaw]="problem()?.of('watch')"
          [readonly]="!session.mayChange()"
          [value]="text().targets"
          (typed)="form.put({ targets: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="Every, s"
          for="uplink-interval"
          [mono]="true"
          [readonly]="!session.mayChange()"
          [value]="text().interval"
          (typed)="form.put({ interval: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="Lost in a row until it is gone"
          for="uplink-losses"
          [mono]="true"
          [hint]="falseWords()"
          [readonly]="!session.mayChange()"
          [value]="text().losses"
          (typed)="form.put({ losses: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="An answer is waited for, s"
          for="uplink-timeout"
          [mono]="true"
          [readonly]="!session.mayChange()"
          [value]="text().timeout"
          (typed)="form.put({ timeout: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="Good in a row until it is back"
          for="uplink-good"
          [mono]="true"
          [readonly]="!session.mayChange()"
          [value]="text().good"
          (typed)="form.put({ good: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="and that for, s"
          for="uplink-hold"
          [mono]="true"
          [hint]="holdWords()"
          [readonly]="!session.mayChange()"
          [value]="text().hold"
          (typed)="form.put({ hold: $event })"
          (done)="send()"
        />
        <il-choice-cell
          label="Addresses from inside"
          for="uplink-translate"
          [disabled]="!session.mayChange()"
          [options]="translates"
          [value]="text().translate"
          (chosen)="set({ translate: $event })"
        />
        <il-choice-cell
          label="IPv6"
          for="uplink-six"
          [disabled]="!session.mayChange()"
          [options]="sixes"
          [value]="text().six"
          (chosen)="set({ six: $event })"
        />
        @if (text().six === 'static') {
          <il-text-cell
            label="IPv6 address with its length"
            for="uplink-address6"
            example="2001:db8:7::2/64"
            [mono]="true"
            [flaw]="problem()?.of('fixed6')"
            [readonly]="!session.mayChange()"
            [value]="text().address6"
            (typed)="form.put({ address6: $event })"
            (done)="send()"
          />
          <il-text-cell
            label="IPv6 gateway"
            for="uplink-gateway6"
            example="fe80::1"
            [mono]="true"
            [hint]="waitsFor()"
            [readonly]="!session.mayChange()"
            [value]="text().gateway6"
            (typed)="form.put({ gateway6: $event })"
            (done)="send()"
          />
        }
        <il-text-cell
          label="VLAN ID of its frames"
          for="uplink-vlan"
          [mono]="true"
          example="untagged"
          [flaw]="problem()?.of('vlan')"
          [readonly]="!session.mayChange()"
          [value]="text().vlan"
          (typed)="form.put({ vlan: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="Octets of a packet at most"
          for="uplink-mtu"
          [mono]="true"
          [example]="mtuUsual()"
          [flaw]="problem()?.of('mtu')"
          [readonly]="!session.mayChange()"
          [value]="text().mtu"
          (typed)="form.put({ mtu: $event })"
          (done)="send()"
        />
        <il-choice-cell
          label="TCP is told of packets that fit"
          for="uplink-clamp"
          [disabled]="!session.mayChange()"
          [options]="clamps"
          [value]="text().clamp"
          (chosen)="set({ clamp: $event })"
        />
        <il-text-cell
          label="MAC address to show"
          for="uplink-mac"
          [mono]="true"
          example="its own"
          [flaw]="problem()?.of('mac')"
          [readonly]="!session.mayChange()"
          [value]="text().mac"
          (typed)="form.put({ mac: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="Name servers"
          for="uplink-dns"
          [mono]="true"
          [example]="row().fact?.dns?.join(', ') ?? 'the provider’s'"
          [flaw]="problem()?.of('dns')"
          [readonly]="!session.mayChange()"
          [value]="text().dns"
          (typed)="form.put({ dns: $event })"
          (done)="send()"
        />
        @if (message(); as wrong) {
          <p class="cell full flaw" role="alert">{{ wrong }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class UplinkSheet {
  private readonly store = inject(SiteStore);
  private readonly paths = inject(PathsStore);
  protected readonly session = inject(SessionStore);
  readonly row = input.required<UplinkRow>();
  /** Writes a moment, by the site’s clock. */
  readonly time = input.required<(ms: number) => string>();
  readonly closed = output<void>();
  private readonly turns = new Turns();
  protected readonly measuring = signal(false);
  private readonly measured = signal<Problem | null>(null);
  protected readonly ways = computed((): Choice[] =>
    UPLINK_WAYS.filter((way) => (way === 'cellular') === (this.row().socket.modem === true)).map((value) => ({
      value,
      label: WAYS[value],
    })),
  );
  protected readonly sixes: readonly Choice[] = SIX_WAYS.map((value) => ({ value, label: SIXES[value] }));
  protected readonly roles: readonly Choice[] = [
    { value: 'shares', label: 'always, for its share' },
    { value: 'standby', label: 'when others fail' },
  ];
  protected readonly translates: readonly Choice[] = [
    { value: true, label: 'leave as its own address' },
    { value: false, label: 'leave as they are' },
  ];
  protected readonly clamps: readonly Choice[] = [
    { value: true, label: 'yes' },
    { value: false, label: 'no' },
  ];
  protected readonly form = new EditForm<UplinkRow, UplinkText>({
    kept: () => this.row(),
    idOf: ({ key }) => key,
    textOf: (row) => textOf((row ?? this.row()).setting),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly message = computed(() => this.form.other(FIELDS) || (this.measured()?.message ?? ''));
  protected readonly entry = computed(() => this.entryNow());
  protected readonly heading = computed(() => `${this.row().device.name} ${titleOf(this.row())}`);
  protected readonly note = computed(() => fareWords(this.row(), this.time()));
  protected readonly given = computed(() => {
    const { fact } = this.row();
    if (!fact?.address) return fact?.why ?? '';
    const since = fact.given === undefined ? '' : ` since ${this.time()(fact.given)}`;
    return `${fact.address}, gateway ${fact.gateway ?? '?'}${since}`;
  });
  /** What is to be said before anything goes into the draft. */
  protected readonly waitsFor = computed(() => {
    const lacks = this.lacking();
    return lacks === '' ? '' : `Goes into the draft once ${lacks} is there`;
  });
  protected readonly shareHint = computed(() => {
    const { share, setting } = this.row();
    return setting.role === 'shares' ? `${Math.round(share * 100)} % of the sessions while all are good` : '';
  });
  protected readonly watch = computed(() => watchTyped(this.text()));
  protected readonly costWords = computed(() => {
    const watch = this.watch();
    const here = watch.interval >= watch.timeout ? pointOf(watch, watch.interval) : null;
    if (!here) return '';
    const whom = watch.targets.map(targetWords).join(', ');
    return `${secondsWords(here.best)} to ${secondsWords(here.worst)} after it goes, ${secondsWords(here.mean)} on the average, for ${megabytesWords(here.megabytes)} a day: ${whom}.`;
  });
  protected readonly falseWords = computed(() => {
    const { losses, interval } = this.watch();
    const loss = this.row().fact?.loss ?? 0;
    if (!(losses >= 1) || !(interval > 0)) return '';
    const at = loss > 0 && loss < 1 ? loss : 0.01;
    const every = wronglyGoneEvery({ interval, losses }, at);
    return `At ${Math.round(at * 100)} % loss a good uplink is taken for gone every ${longWords(every)}`;
  });
  protected readonly holdWords = computed(() => {
    const watch = this.watch();
    const most = holdOf(watch, { ...healthy(0), flaps: 5 });
    return watch.hold > 0 ? `Twice as long each time it goes again soon, up to ${secondsWords(most)}` : '';
  });
  protected readonly mtuUsual = computed(() => `${usualMtu(this.text().way)}`);

  protected set(change: Partial<UplinkText>): Promise<void> {
    this.form.put(change);
    return this.send();
  }

  protected choose(interval: number): Promise<void> {
    if (!this.session.mayChange()) return Promise.resolve();
    const timeout = Math.min(numberTyped(this.text().timeout) ?? interval, interval);
    return this.set({ interval: `${interval}`, timeout: `${timeout}` });
  }

  protected async measure(): Promise<void> {
    const { device, port } = this.row();
    await attempt(this.measuring, this.measured, async () => {
      const { down, up } = await this.paths.measure(device.id, port);
      await this.set({ down: `${down}`, up: `${up}` });
    });
  }

  /** Puts into the draft what differs, once all is there that belongs together. */
  protected async send(): Promise<void> {
    if (this.lacking() !== '') return;
    await this.turns.take(() =>
      this.form.send(async () => {
        const [text, kept] = [this.text(), textOf(this.row().setting)];
        const changed = (Object.keys(text) as (keyof UplinkText)[]).filter((key) => text[key] !== kept[key]);
        if (changed.length === 0) return;
        const secret = text.password === '' ? null : crypto.randomUUID();
        const from = this.entryNow();
        await this.edit(
          from,
          entryTyped(from, text, changed, secret),
          secret === null ? {} : { [secret]: text.password },
        );
      }),
    );
  }

  protected async make(to: UplinkEntry | null): Promise<void> {
    await this.turns.take(() => this.form.send(() => this.edit(this.entryNow(), to, {})));
  }

  private edit(
    from: UplinkEntry | null,
    to: UplinkEntry | null,
    secrets: Readonly<Record<string, string>>,
  ): Promise<void> {
    const { device, port } = this.row();
    const siteId = this.store.siteId()!;
    return this.store.edit([{ type: 'uplink.set', siteId, deviceId: device.id, port, from, to }], secrets);
  }

  private entryNow = (): UplinkEntry | null =>
    this.store.site()?.uplinks?.[this.row().device.id]?.[this.row().port] ?? null;

  private lacking(): string {
    const { way, address, gateway, user, password, six, address6, gateway6 } = this.text();
    if (way === 'static' && (address.trim() === '' || gateway.trim() === '')) return 'its address and its gateway';
    if (way === 'pppoe' && (user.trim() === '' || (password === '' && !this.entryNow()?.login)))
      return 'its name and its password';
    return six === 'static' && (address6.trim() === '' || gateway6.trim() === '') ? 'its IPv6 address and gateway' : '';
  }
}

const WAYS: Readonly<Record<(typeof UPLINK_WAYS)[number], string>> = {
  dhcp: 'DHCP',
  static: 'said here',
  pppoe: 'PPPoE',
  cellular: 'a mobile network',
  satellite: 'DHCP, over a satellite',
};
const SIXES: Readonly<Record<(typeof SIX_WAYS)[number], string>> = {
  none: 'not used',
  slaac: 'as the provider’s router says (SLAAC)',
  prefix: 'a prefix for inside (DHCPv6-PD)',
  static: 'said here',
};

/** A long time in words. */
function longWords(seconds: number): string {
  const hours = seconds / 3600;
  if (hours < 48) return hours < 1 ? `${Math.max(1, Math.round(hours * 60))} min` : `${Math.round(hours)} h`;
  const days = hours / 24;
  return days < 700 ? `${Math.round(days)} days` : `${Math.round(days / 365).toLocaleString('en')} years`;
}
