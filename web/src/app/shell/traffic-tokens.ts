import { Injectable, computed, inject } from '@angular/core';
import { endNamesAt } from '@iron-lattice/core/assess';
import { resolve } from '@iron-lattice/core/intent';
import {
  readAddresses,
  readEnds,
  readServices,
  saidServices,
  SERVICE_NAMES,
  writeEnds,
  writeServices,
  type EndNames,
  type RuleEnd,
} from '@iron-lattice/core/rules';
import type { Token, TokenSource } from '../ui/token-field';
import { EstateStore } from './estate-store';
import { SharedStore } from './shared-store';
import { SiteStore } from './site-store';

/** What ends that are a word alone mean. */
const WORDS: Readonly<Record<string, string>> = {
  any: 'everybody',
  internet: 'outside',
  private: 'private space',
  gateway: 'its own addresses',
  controller: 'this controller',
};
const KINDS: Readonly<Record<string, string>> = {
  segment: 'segment',
  ssid: 'SSID',
  class: 'class',
  set: 'set',
  device: 'device',
};
const NOBODY: Required<EndNames> = { segment: [], ssid: [], class: [], set: [], device: [] };

/** Ends and services of traffic as tokens, by the names that the site has. */
@Injectable({ providedIn: 'root' })
export class TrafficTokens {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  private readonly estate = inject(EstateStore);
  /** Names of sites: an end of a question may be said to be at one. */
  readonly sites = computed(() => (this.estate.estate()?.sites ?? []).map(({ name }) => name));

  readonly resolved = computed(() => {
    const data = this.store.data();
    return data ? resolve(data.estate, data.site) : null;
  });
  /** Names that ends may be typed as alone. */
  readonly known = computed((): Required<EndNames> => {
    const site = this.resolved();
    if (site) return endNamesAt(site, this.store.data()?.roster ?? []);
    return this.shared.atEstate() ? this.everywhere() : NOBODY;
  });
  /** The same over all sites: what some site has, or what they share. Devices are of one site. */
  private everywhere(): Required<EndNames> {
    const names = (list: readonly { readonly name: string }[] | undefined): string[] =>
      (list ?? []).map(({ name }) => name);
    const [estate, atSites] = [this.shared.estate(), this.shared.names()];
    return {
      segment: names(atSites.filter(({ kind }) => kind === 'segment')),
      ssid: [...new Set(names(estate?.ssids))],
      class: names(estate?.classes),
      set: names(estate?.sets),
      device: [],
    };
  }
  private readonly marks = computed(() => {
    const marks = this.store.marks();
    return new Map(this.resolved()?.segments.map(({ id, name }) => [name.toLowerCase(), marks.get(id)]));
  });

  readonly ends = computed((): TokenSource => this.endsAmong(this.known()));

  /** Ends as tokens, by names of some place. */
  endsAmong(known: Required<EndNames>): TokenSource {
    const named = (Object.keys(KINDS) as (keyof EndNames)[]).flatMap((kind) =>
      known[kind].map((name) => this.tokenOf({ kind, name }, known)),
    );
    return {
      read: (text) => readEnds(text, known).map((end) => this.tokenOf(end, known)),
      join: (tokens) => tokens.map(({ text }) => text).join(', '),
      options: [...Object.entries(WORDS).map(([word, kind]): Token => ({ text: word, label: word, kind })), ...named],
      separator: ',',
      all: 'any',
    };
  }

  readonly services = computed((): TokenSource => {
    const sets = [...(this.shared.estate()?.sets ?? []), ...(this.resolved()?.sets ?? [])];
    const ported = sets.filter(({ ports = [] }) => ports.length > 0);
    return {
      read: readServiceTokens,
      join: (tokens) => tokens.map(({ text }) => text).join('; '),
      options: [
        { text: 'any', label: 'any', kind: 'everything' },
        ...SERVICE_NAMES.map(({ name, services }): Token => ({ text: services, label: name, kind: services })),
        ...ported.map(({ name }): Token => ({ text: `tcp set ${name}`, label: `tcp set ${name}`, kind: 'set' })),
      ],
      separator: ';',
      all: 'any',
    };
  });

  /** Names of the site's and the estate's sets. */
  readonly sets = computed((): TokenSource => {
    const names = this.known().set;
    const token = (name: string): Token => ({ text: name, label: name, kind: 'set', bad: !names.includes(name) });
    return {
      read: (text) =>
        text
          .split(/[\n,]/)
          .map((line) => line.trim())
          .filter((line) => line !== '')
          .map(token),
      join: (tokens) => tokens.map(({ text }) => text).join('\n'),
      options: names.map(token),
      separator: ',',
    };
  });

  /** Addresses that somebody may want to try: of the gateway, and of devices that have one of their own. */
  readonly targets = computed((): TokenSource => {
    const site = this.resolved();
    const routers = (site?.segments ?? []).map(({ name, gateway }): Token => ({
      text: gateway,
      label: gateway,
      kind: `gateway of ${name}`,
    }));
    const devices = (this.store.data()?.roster ?? []).flatMap(({ name, address }): Token[] =>
      address ? [{ text: address.address, label: address.address, kind: name }] : [],
    );
    const options = [...devices, ...routers];
    return {
      // What is at an address is said where it is chosen; the field shows the address.
      read: (text) => [{ text: text.trim(), label: text.trim(), kind: '' }],
      join: (tokens) => tokens.map(({ text }) => text).join(' '),
      options,
      separator: ' ',
    };
  });

  private tokenOf(end: RuleEnd, known: Required<EndNames>): Token {
    const text = writeEnds([end]);
    if (end.kind === 'addresses') {
      const unread = readAddresses(end.text) === null;
      const elsewhere = this.sites().some((name) => end.text.toLowerCase().endsWith(` at ${name.toLowerCase()}`));
      return {
        text,
        label: end.text,
        kind: elsewhere ? 'elsewhere' : '',
        bad: unread && !elsewhere && !end.text.includes('.'),
      };
    }
    if (!('name' in end)) return { text, label: end.kind, kind: '' };
    const name = known[end.kind].find((each) => each.toLowerCase() === end.name.toLowerCase());
    const mark = end.kind === 'segment' ? this.marks().get(end.name.toLowerCase()) : undefined;
    return { text, label: name ?? end.name, kind: KINDS[end.kind]!, mark, bad: name === undefined };
  }
}

/** Services as they are typed or said: `tcp 443`, `ssh`, a port alone. */
function readServiceTokens(text: string): readonly Token[] {
  const parts = text
    .split(/[;\n]/)
    .map((part) => part.trim())
    .filter((part) => part !== '');
  return parts.flatMap((part): Token[] => {
    const said = readServices(part).bad.length === 0 ? part : saidServices(part);
    if (said === null) return [{ text: part, label: part, kind: '', bad: true }];
    return readServices(said).services.map((service) => {
      const written = writeServices([service]);
      return { text: written, label: written, kind: '' };
    });
  });
}
