import type { Isolation, Segment, Ssid } from '../../intent';
import type { Rule, RuleEnd } from '../../rules';

/** Other segments, of whatever site. */
const PRIVATE: readonly RuleEnd[] = [{ kind: 'private' }];
const EVERYTHING = [{ protocol: 'any' }] as const;

/** The rules that isolation results in, of segments and of SSIDs; APs and switches keep clients from each other. */
export function isolationRules(segments: readonly Segment[], ssids: readonly Ssid[] = []): Rule[] {
  return [
    ...segments.flatMap(({ id, name, isolation }) => isolationOf(id, name, { kind: 'segment', name }, isolation)),
    ...ssids.flatMap(({ id, name, isolation }) => isolationOf(id, name, { kind: 'ssid', name }, isolation)),
  ];
}

function isolationOf(id: string, name: string, end: RuleEnd, isolation: Isolation | null | undefined): Rule[] {
  const own: readonly RuleEnd[] = [end];
  const gateway: readonly RuleEnd[] = [{ kind: 'gateway' }];
  if (!isolation?.gateway && !isolation?.segments) return [];
  const rule = (
    what: string,
    verdict: Rule['verdict'],
    [from, to]: readonly [readonly RuleEnd[], readonly RuleEnd[]],
    comment: string,
    services: Rule['services'] = EVERYTHING,
  ): Rule => ({ id: `isolation ${id} ${what}`, verdict, from, to, services, comment });
  // The gateway is in private space too, and is not one of the segments.
  const reached = isolation.gateway
    ? [
        rule('addresses', 'allow', [own, gateway], `${name} is given addresses and names`, [
          { protocol: 'udp', ports: ['53', '67', '547'] },
          { protocol: 'tcp', ports: ['53'] },
        ]),
        rule('gateway', 'deny', [own, gateway], `${name} is kept from the gateway`),
      ]
    : [rule('addresses', 'allow', [own, gateway], `${name} reaches the gateway`)];
  if (!isolation.segments) return reached;
  return [
    ...reached,
    // Where each packet is judged by itself, the gateway's answers have to be let in too.
    ...(end.kind === 'ssid' ? [rule('answers', 'allow', [gateway, own], `The gateway answers ${name}`)] : []),
    rule('out', 'deny', [own, PRIVATE], `${name} is kept from other segments`),
    rule('in', 'deny', [PRIVATE, own], `Other segments are kept from ${name}`),
  ];
}
