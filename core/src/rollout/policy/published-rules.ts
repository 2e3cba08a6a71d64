import { portsOutside, protocolsOf, publicationsOf, publishedRuleId, type Publication } from '../../intent';
import { thoseOutside, type PacketRule, type Rule, type RuleNames } from '../../rules';

/**
 * The rules that let in what is published: whereto is translated before a gateway asks its rules, so that they are about whom it
 * leads to. Only the gateway that routes the segments can lead anybody there.
 * @param holder that gateway; null: none.
 */
export function publishedRules(publications: readonly Publication[] = [], holder: string | null): Rule[] {
  if (holder === null) return [];
  return publicationsOf({ publications }, holder).flatMap((each): Rule[] => {
    const ports = portsInside(each);
    if (each.off || !ports) return [];
    const { id, name, from, address, hours, log } = each;
    return [
      {
        id: publishedRuleId(id),
        verdict: 'allow',
        from,
        to: [{ kind: 'addresses', text: address }],
        services: protocolsOf(each).map((protocol) => ({ protocol, ports: [ports] })),
        comment: `Published: ${name}`,
        ...(hours ? { hours } : {}),
        ...(log ? { log } : {}),
      },
    ];
  });
}

/** The ports of whom it leads to, as rules write them; null where they cannot be read. */
export function portsInside(publication: Publication): string | null {
  const span = portsOutside(publication);
  if (!span) return null;
  const first = publication.inside ?? span.first;
  const last = first + span.last - span.first;
  return first === last ? `${first}` : `${first}-${last}`;
}

/** A rule of what is published: it lets nobody in who is inside, where other rules decide. */
export const fromOutside = (rule: PacketRule, names: Pick<RuleNames, 'segments'>): PacketRule => ({
  ...rule,
  source: thoseOutside(rule.source, names),
});
