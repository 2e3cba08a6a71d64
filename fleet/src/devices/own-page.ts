import { html, type Html } from '@iron-lattice/core/guests';
import { checkFirst, firstPorts } from '@iron-lattice/core/intent';
import { FIRST_WAYS, type FirstUplink } from '@iron-lattice/core/document';
import { firstShape } from '@iron-lattice/core/line';
import type { Flaw } from '@iron-lattice/core/base';
import type { SheetPort } from '@iron-lattice/core/hardware';
import type { World } from '../world/world';
import { fingerprintOf } from './device-store';
import type { Device } from './device';
import { OWN_PAGE_STYLE } from './own-page-style';

/** Most octets of what is sent from the page. */
export const MOST_SENT = 4096;

/** What a browser sends of a form beside what was typed. */
export interface Sent {
  readonly body: string;
  readonly type: string;
  /** Where the page is from that it was sent from (`Sec-Fetch-Site`, W3C Fetch Metadata); absent: an old browser. */
  readonly site: string | undefined;
}

/** What a browser is answered: a page, or where to look. */
export interface OwnAnswer {
  readonly status: number;
  readonly location?: string;
  readonly page?: string;
}

/** A gateway’s own page, which it shows on its factory address to who sits beside it, for its first uplink. */
export class OwnPage {
  constructor(
    private readonly device: Device,
    private readonly world: World,
  ) {}

  /** @param path where the page is. @param sent what was sent from it; null: it is only looked at. */
  answer(path: string, sent: Sent | null): OwnAnswer {
    if (this.ports.length === 0) return { status: 404, page: 'Only gateways have a page of their own.' };
    if (!sent) return { status: 200, page: this.page(this.device.first ?? null) };
    // A page from elsewhere cannot set it through a browser that happens to be beside it.
    if (sent.site !== undefined && sent.site !== 'same-origin')
      return { status: 403, page: 'This is only set from the gateway’s own page.' };
    if (sent.body.length > MOST_SENT || sent.type.split(';')[0] !== 'application/x-www-form-urlencoded')
      return { status: 400, page: 'That is not what this page sends.' };
    if (this.device.runs !== null) return { status: 409, page: this.page(null) };
    const said = this.read(new URLSearchParams(sent.body));
    const { error } = firstShape.validate(said, { convert: false });
    const flaws = error ? [{ code: 'own.shape', message: `That cannot be: ${error.message}.` }] : this.check(said);
    if (flaws.length > 0) return { status: 422, page: this.page(said, flaws) };
    this.device.sayFirst(said);
    return { status: 303, location: path };
  }

  private get ports(): readonly SheetPort[] {
    return firstPorts(this.device.identity);
  }

  /** What was typed; a password that was not typed again stays as it was for the same user. */
  private read(form: URLSearchParams): FirstUplink<string> {
    const typed = (name: string): string => (form.get(name) ?? '').trim();
    const [way, dns, vlan, user] = [typed('way') as FirstUplink['way'], typed('dns'), typed('vlan'), typed('user')];
    const before = this.device.first?.login;
    const password = form.get('password') || (before?.user === user ? before.password : '');
    return {
      port: typed('port'),
      way,
      ...(way === 'static' ? { fixed: { address: typed('address'), gateway: typed('gateway') } } : {}),
      ...(way === 'pppoe' ? { login: { user, password } } : {}),
      ...(way === 'cellular' && typed('apn') !== '' ? { apn: typed('apn') } : {}),
      ...(vlan === '' ? {} : { vlan: Number(vlan) }),
      ...(dns === '' ? {} : { dns: dns.split(/[\s,;]+/) }),
    };
  }

  private check(said: FirstUplink<string>): readonly Pick<Flaw, 'message'>[] {
    const port = this.ports.find(({ name }) => name === said.port);
    if (port && (said.way === 'cellular') !== (port.modem === true))
      return [{ message: port.modem ? `${port.name} is the modem.` : `${port.name} is no modem: choose another way.` }];
    return checkFirst(this.device.identity, said);
  }

  private page(said: FirstUplink<string> | null, flaws: readonly Pick<Flaw, 'message'>[] = []): string {
    const { identity, publicKey, runs } = this.device;
    return html`<!doctype html>
      <html lang="en">
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width" />
        <title>${identity.model} ${identity.serial}</title>
        ${OWN_PAGE_STYLE}
        <h1>${identity.model} <code>${identity.serial}</code></h1>
        <p>Its key, as on the label: <code>${fingerprintOf(publicKey)}</code></p>
        ${this.state()}
        ${
          runs === null
            ? this.form(said, flaws)
            : html`<p class="note">
                It does what its controller says. How it comes to an address is changed there, under Paths; only once it
                is back as it came is it said here again.
              </p>`
        }
      </html>`.text;
  }

  private state(): Html {
    const { serial } = this.device.identity;
    const paths = this.world.paths.of(this.world.box(serial));
    const rows = this.ports.map(({ name }) => {
      const given = paths?.givenAt(name);
      const words = !given ? 'is not used.' : given.address === null ? given.why : `has ${given.address}.`;
      return html`<li class="${given && given.address !== null ? 'good' : 'bad'}"><code>${name}</code> ${words}</li>`;
    });
    const calls = this.device.isHeard
      ? html`<li class="good">Its controller hears it. You can go on there.</li>`
      : html`<li class="bad">Its controller does not hear it yet.</li>`;
    return html`<ul>
      ${rows}${calls}
    </ul>`;
  }

  private form(said: FirstUplink<string> | null, flaws: readonly Pick<Flaw, 'message'>[]): Html {
    const [first] = this.ports;
    const port = said?.port ?? first!.name;
    const way = said?.way ?? (this.ports.find(({ name }) => name === port)?.modem ? 'cellular' : 'dhcp');
    const before = this.device.first?.login;
    const keeps = before !== undefined && before.user === said?.login?.user;
    const choice = (name: string, value: string, chosen: boolean, words: string): Html =>
      html`<label class="choice"
        ><input type="radio" name="${name}" value="${value}" ${chosen ? html`checked` : null} /> ${words}</label
      >`;
    const field = (name: string, words: string, value: string, example: string, type = 'text'): Html =>
      html`<label class="field"
        >${words}<input name="${name}" type="${type}" value="${value}" placeholder="${example}" autocomplete="off"
      /></label>`;
    return html`<form method="post">
      <h2>How does it come to an address?</h2>
      <p>Type what the provider gave. It is tried at once, and holds until its controller says something else.</p>
      ${flaws.length > 0 ? html`<div role="alert">${flaws.map(({ message }) => html`<p>${message}</p>`)}</div>` : null}
      <fieldset>
        <legend>Port</legend>
        ${this.ports.map(({ name }) => choice('port', name, name === port, name))}
      </fieldset>
      <fieldset>
        <legend>Way</legend>
        ${FIRST_WAYS.filter((each) => each !== 'cellular' || this.ports.some(({ modem }) => modem)).map((each) =>
          choice('way', each, each === way, WAY_WORDS[each]),
        )}
      </fieldset>
      <div class="of static">
        ${field('address', 'Address with its length', said?.fixed?.address ?? '', '203.0.113.11/29')}
        ${field('gateway', 'Gateway', said?.fixed?.gateway ?? '', '203.0.113.9')}
      </div>
      <div class="of pppoe">
        ${field('user', 'Name', said?.login?.user ?? '', 'line-4711')}
        ${field('password', 'Password', '', keeps ? 'as it is' : '', 'password')}
      </div>
      <div class="of cellular">${field('apn', 'Access point', said?.apn ?? '', 'internet.example')}</div>
      ${field('vlan', 'VLAN ID, where the provider asks for one', said?.vlan === undefined ? '' : `${said.vlan}`, 'none')}
      ${field('dns', 'Name servers', said?.dns?.join(', ') ?? '', 'those that the provider names')}
      <button>Try it</button>
    </form>`;
  }
}

const WAY_WORDS: Readonly<Record<FirstUplink['way'], string>> = {
  dhcp: 'It is given one (DHCP)',
  static: 'One of its own (static)',
  pppoe: 'By name and password (PPPoE)',
  cellular: 'Mobile network',
};
