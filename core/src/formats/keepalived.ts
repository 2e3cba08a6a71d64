/** How an uplink is asked whether it leads anywhere; times in seconds. */
export interface LinuxWatch {
  readonly targets: readonly { readonly to: string }[];
  readonly interval: number;
  readonly losses: number;
  readonly timeout: number;
  readonly good: number;
}

/** A gateway of a pair as Linux is told of it. */
export interface LinuxPair {
  /** Its own name. */
  readonly name: string;
  /** RFC 9568 §5.2.3. */
  readonly router: number;
  /** RFC 9568 §5.2.4; and what is left of it while what is tracked fails. */
  readonly priority: number;
  readonly lowered: number;
  /** Hundredths of a second between advertisements. */
  readonly advert: number;
  /** Interface in which both hear each other, and its own address there. */
  readonly at: string;
  readonly own: string;
  /** Addresses that both share, with the interface that each is in. */
  readonly shared: readonly { readonly address: string; readonly at: string }[];
  /** Uplinks that are tracked, and how each is watched. */
  readonly tracks: readonly { readonly port: string; readonly watch: LinuxWatch }[];
  /** Whether it is lowered when any of them fails. */
  readonly any: boolean;
}

/** Where the script is that asks tracked uplinks. */
export const TRACK_SCRIPT = '/etc/keepalived/uplinks.sh';

/**
 * The file by which keepalived takes turns as a gateway does (VRRP version 3, RFC 9568): one virtual router in the segment that gateways live in, which all
 * shared addresses go along with; see `trackScriptOf` for what it tracks.
 */
export function keepalivedOf(pair: LinuxPair): string {
  const { name, router, priority, lowered, advert, at, own, shared, tracks } = pair;
  // An advertisement over IPv4 tells few addresses, and none of IPv6; what is excluded of it goes along all the same.
  const written = (said: boolean): string[] =>
    shared
      .filter((each) => (each.at === at && !each.address.includes(':')) === said)
      .map((each) => `    ${each.address} dev ${each.at}`);
  const others = written(false);
  return [
    `# ${name}`,
    'global_defs {',
    `  router_id ${name}`,
    '  vrrp_version 3',
    '  script_user root',
    '  enable_script_security',
    '}',
    ...(tracks.length > 0 ? ['', ...scriptOf(tracks[0]!.watch)] : []),
    '',
    'vrrp_instance gateways {',
    '  state BACKUP',
    `  interface ${at}`,
    `  virtual_router_id ${router}`,
    `  priority ${priority}`,
    `  advert_int ${advert / 100}`,
    `  mcast_src_ip ${own.split('/')[0]!}`,
    ...(tracks.length > 0 ? ['  track_script {', `    uplinks weight ${lowered - priority}`, '  }'] : []),
    '  virtual_ipaddress {',
    ...written(true),
    '  }',
    ...(others.length > 0 ? ['  virtual_ipaddress_excluded {', ...others, '  }'] : []),
    '}',
    '',
  ].join('\n');
}

const scriptOf = ({ interval, losses, good }: LinuxWatch): string[] => [
  'vrrp_script uplinks {',
  `  script "/bin/sh ${TRACK_SCRIPT}"`,
  `  interval ${Math.max(1, Math.round(interval))}`,
  `  fall ${losses}`,
  `  rise ${good}`,
  '}',
];

/**
 * The script that keepalived asks whether what a gateway tracks is good: it ends well while all of them are, or any, as the pair has it. What would be
 * asked for names or pages is pinged.
 */
export function trackScriptOf({ tracks, any }: Pick<LinuxPair, 'tracks' | 'any'>): string {
  const asked = tracks.map(({ port, watch: { targets, timeout } }) => {
    const router = `$(ip -4 route show default dev ${port} | cut -d ' ' -f 3)`;
    const one = targets.map(({ to }) => {
      const whom = to === 'gateway' || to === 'controller' ? router : to;
      return `ping -q -c 1 -W ${Math.max(1, Math.round(timeout))} -I ${port} ${whom} > /dev/null`;
    });
    return one.length > 1 ? `{ ${one.join(' || ')}; }` : one[0]!;
  });
  return ['#!/bin/sh', asked.join(any ? ' && \\\n  ' : ' || \\\n  '), ''].join('\n');
}
