/** How something on the internet is asked whether it is there: an echo (RFC 792), a name (RFC 1035), a page (RFC 9110). */
export const TARGET_WAYS = ['ping', 'dns', 'http'] as const;
export type TargetWay = (typeof TARGET_WAYS)[number];

/** What is asked to tell whether an uplink leads anywhere. */
export interface Target {
  readonly by: TargetWay;
  /** Its address; `gateway`: the provider’s router, whatever it is; `controller`: where this controller answers. */
  readonly to: string;
  /** The name that is asked for; of `dns` alone. */
  readonly name?: string;
}

/** Octets of one question with its answer: an echo as above; a short name and its address; a request for a page without contents. */
export const TARGET_OCTETS: Readonly<Record<TargetWay, number>> = { ping: 168, dns: 160, http: 1100 };

/** Octets that one round of questions takes. */
export const roundOctets = (targets: readonly Target[]): number =>
  targets.reduce((sum, { by }) => sum + TARGET_OCTETS[by], 0);

/** A target in words. */
export function targetWords({ by, to, name }: Target): string {
  const whom = to === 'gateway' ? 'the provider’s router' : to === 'controller' ? 'this controller' : to;
  if (by === 'dns') return `${name ?? 'a name'} asked at ${whom}`;
  return by === 'http' ? `a page of ${whom}` : `ping ${whom}`;
}

/** Targets as people write them, one a line: `ping gateway`, `ping 192.0.2.1`, `dns 192.0.2.53 gull.example`, `http 192.0.2.80`. */
export const writeTargets = (targets: readonly Target[]): string =>
  targets.map(({ by, to, name }) => [by, to, name].filter(Boolean).join(' ')).join('\n');

/** Reads them. A line that begins with no way of asking is a ping. */
export function readTargets(text: string): Target[] {
  return text.split(/[\n;,]/).flatMap((line): Target[] => {
    const words = line.trim().split(/\s+/);
    if (words[0] === '') return [];
    const known = TARGET_WAYS.find((way) => way === words[0]!.toLowerCase());
    const [to = '', name] = known ? words.slice(1) : words;
    return [{ by: known ?? 'ping', to: to.toLowerCase(), ...(name === undefined ? {} : { name: name.toLowerCase() }) }];
  });
}
