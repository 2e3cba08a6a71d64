import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { shapeOf, UPLINK_WAYS, USUAL_BELOW, type UplinkEntry } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { carriedWords, fareWords, titleOf, type UplinkRow } from './path-rows';
import { speedWords } from './busy-rows';
import { PathsStore } from './paths-store';
import { UplinkFrames } from './uplink-frames';
import { entryTyped, textOf, type UplinkText } from './uplink-text';
import { UplinkWatch } from './uplink-watch';

const FIELDS = [
  ...['title', 'fixed', 'login', 'apn', 'fixed6', 'vlan', 'mtu', 'mac', 'dns', 'down', 'up', 'below'],
  ...['allowance', 'anew', 'price', 'role', 'weight', 'turn', 'instead', 'watch'],
] as const;

/** One uplink: how it comes to an address, what it can do, how it is used, and how it is watched; goes into the draft as it is said. */
@Component({
  selector: 'il-uplink-sheet',
  imports: [MatButtonModule, ChoiceCell, Sheet, TextCell, UplinkFrames, UplinkWatch],
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
            [example]="row().setting.login ? 'kept; type another' : ''"
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
          <il-text-cell
            label="Stands by for"
            for="uplink-instead"
            [mono]="true"
            example="all that share"
            hint="Ports, parted by commas"
            [flaw]="problem()?.of('instead')"
            [readonly]="!session.mayChange()"
            [value]="text().instead"
            (typed)="form.put({ instead: $event })"
            (done)="send()"
          />
        }
        <il-text-cell
          label="Kept to, % of what it can do"
          for="uplink-below"
          [mono]="true"
          example="to nothing"
          [hint]="keptHint()"
          [flaw]="problem()?.of('below')"
          [readonly]="!session.mayChange()"
          [value]="text().below"
          (typed)="form.put({ below: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="Gigabytes a month that are paid for"
          for="uplink-allowance"
          [mono]="true"
          example="as much as one likes"
          [hint]="carried()"
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
        <il-uplink-watch
          [row]="row()"
          [text]="text()"
          [flaw]="problem()?.of('watch')"
          (typed)="form.put($event)"
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
        <il-uplink-frames
          [row]="row()"
          [text]="text()"
          [problem]="problem()"
          [waitsFor]="waitsFor()"
          [time]="time()"
          (typed)="form.put($event)"
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
  protected readonly roles: readonly Choice[] = [
    { value: 'shares', label: 'always, for its share' },
    { value: 'standby', label: 'when others fail' },
  ];
  protected readonly translates: readonly Choice[] = [
    { value: true, label: 'leave as its own address' },
    { value: false, label: 'leave as they are' },
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
    const { fact, device, port, setting } = this.row();
    const first = device.first?.port === port && !setting.own.includes('way') ? 'As said at its own page. ' : '';
    if (!fact?.address) return `${first}${fact?.why ?? ''}`;
    const since = fact.given === undefined ? '' : ` since ${this.time()(fact.given)}`;
    return `${first}${fact.address}, gateway ${fact.gateway ?? '?'}${since}`;
  });
  /** What is to be said before anything goes into the draft. */
  protected readonly waitsFor = computed(() => {
    const lacks = this.lacking();
    return lacks === '' ? '' : `Goes into the draft once ${lacks} is there`;
  });
  protected readonly carried = computed(() => carriedWords(this.row()).words);
  protected readonly shareHint = computed(() => {
    const { share, setting } = this.row();
    return setting.role === 'shares' ? `${Math.round(share * 100)} % of the sessions while all are good` : '';
  });

  protected readonly keptHint = computed(() => {
    const shape = shapeOf(this.row().setting);
    if (!shape) return `What waits does so at the provider. ${USUAL_BELOW} % has it wait here, where it is parted`;
    return `${speedWords(shape.down / 1000, shape.up / 1000)}; what waits does so here`;
  });

  protected set(change: Partial<UplinkText>): Promise<void> {
    this.form.put(change);
    return this.send();
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
          entryTyped(from, text, changed, secret === null ? (this.row().setting.login?.password ?? null) : { secret }),
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
    if (way === 'pppoe' && (user.trim() === '' || (password === '' && !this.row().setting.login)))
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
