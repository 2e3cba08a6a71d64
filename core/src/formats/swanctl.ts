import { GROUPS, CIPHERS, HASHES, provesItself, type CipherName, type Offer, type OfferKind } from '../ike';

/** One side of a tunnel between two gateways, as a file for swanctl says it. */
export interface SwanctlSide {
  /** What the tunnel is called. */
  readonly name: string;
  /** Address at which the other gateway is found; absent: it is the one that calls. */
  readonly at?: string;
  /** What this gateway names itself, and the other. */
  readonly own: string;
  readonly other: string;
  readonly ike: Offer;
  readonly esp: Offer;
  /** Seconds after which keys are made anew. */
  readonly lasts: { readonly ike: number; readonly esp: number };
  /** Prefixes on this side, and on the other. */
  readonly here: readonly string[];
  readonly there: readonly string[];
  /** What both know; absent: it is to be put in by hand. */
  readonly key?: string;
}

/** What an offer is in the words of swanctl: a proposal for each run of ciphers that need a hash, or need none (RFC 5282 §8). */
export function proposalsOf(kind: OfferKind, { ciphers, hashes, groups }: Offer): string {
  const runs = ciphers.reduce<CipherName[][]>((all, cipher) => {
    const last = all.at(-1);
    if (last && provesItself(last[0]!) === provesItself(cipher)) last.push(cipher);
    else all.push([cipher]);
    return all;
  }, []);
  const prfs = kind === 'ike' ? hashes.map((each) => `prf${HASHES[each].name}`) : [];
  return runs
    .map((run) =>
      [
        ...run.map((each) => CIPHERS[each].name),
        ...(provesItself(run[0]!) ? [] : hashes.map((each) => HASHES[each].name)),
        ...prfs,
        ...groups.map((each) => GROUPS[each].name),
      ].join('-'),
    )
    .join(',');
}

/** Tunnels of a gateway with gateways of others (IKEv2) as a file for swanctl, which is put beside its own as it is. */
export function swanctlOf(gateway: string, sides: readonly SwanctlSide[]): string {
  const names = plainNames(sides.map(({ name }) => name));
  return [
    `# Tunnels of ${plain(gateway)} to other gateways (IKEv2), for swanctl --load-all.`,
    'connections {',
    ...sides.flatMap((side, i) => connection(names[i]!, side)),
    '}',
    'secrets {',
    ...sides.flatMap(({ own, other, key, name }, i) => [
      `  ike-${names[i]} {`,
      `    id-own = ${own}`,
      `    id-other = ${other}`,
      ...(key === undefined ? [`    # secret = between quotes, the key of ${plain(name)}`] : [`    secret = "${key}"`]),
      '  }',
    ]),
    '}',
    '',
  ].join('\n');
}

function connection(name: string, { at, own, other, ike, esp, lasts, here, there, ...said }: SwanctlSide): string[] {
  return [
    `  ${name} {`,
    `    # ${plain(said.name)}`,
    '    version = 2',
    '    mobike = no',
    // What calls and is called goes by the address of the uplink that is used.
    `    remote_addrs = ${at ?? '%any'}`,
    `    proposals = ${proposalsOf('ike', ike)}`,
    `    rekey_time = ${lasts.ike}s`,
    '    dpd_delay = 10s',
    '    local {',
    '      auth = psk',
    `      id = ${own}`,
    '    }',
    '    remote {',
    '      auth = psk',
    `      id = ${other}`,
    '    }',
    '    children {',
    `      ${name} {`,
    `        local_ts = ${here.join(',')}`,
    `        remote_ts = ${there.join(',')}`,
    `        esp_proposals = ${proposalsOf('esp', esp)}`,
    `        rekey_time = ${lasts.esp}s`,
    `        start_action = ${at === undefined ? 'none' : 'start'}`,
    `        dpd_action = ${at === undefined ? 'clear' : 'restart'}`,
    '      }',
    '    }',
    '  }',
  ];
}

const plain = (text: string): string => text.replace(/[^ -~]/g, ' ').replace(/[{}#]/g, ' ');

/** Names of sections: letters, digits and hyphens, each once. */
function plainNames(names: readonly string[]): string[] {
  const used = new Set<string>();
  return names.map((name) => {
    const short = name.replace(/[^a-z0-9]+/gi, '-').replace(/^-+|-+$/g, '') || 'tunnel';
    let found = short;
    for (let n = 2; used.has(found.toLowerCase()); n++) found = `${short}-${n}`;
    used.add(found.toLowerCase());
    return found;
  });
}
