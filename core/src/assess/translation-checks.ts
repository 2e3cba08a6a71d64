import { contains, isUnanswered, parseIp, prefixOf } from '../address';
import { translationsOf, uplinkSettings, type Translation } from '../intent';
import { resolvedTranslations } from '../rollout';
import { readAddresses } from '../rules';
import { nameIn, type Check } from './check';
import type { Finding } from './finding';
import { takenChecks } from './taken-checks';

/** Those who leave as themselves with addresses that nobody outside can answer, and pools that the provider has to lead there. */
const unanswered: Check = (context) => {
  const { site, roster } = context;
  const { packets } = resolvedTranslations({ site, roster });
  return roster.flatMap((device) =>
    translationsOf(site, device.id).flatMap((each): Finding[] => {
      const { id, name, as, port, pool } = each;
      const rule = packets[id];
      if (!rule) return [];
      const found = (code: string, severity: Finding['severity'], message: string, reason: string): Finding => ({
        ...{ key: `paths.${code} ${id}`, code: `paths.${code}`, severity, message, reason },
        ...{ place: { siteId: site.id, kind: 'translation' as const, id }, mend: null },
      });
      const sources = rule.source ?? [];
      const hidden = sources.filter(({ version, first }) => isUnanswered({ version, value: first }));
      if (as === 'itself' && sources.length > 0 && hidden.length === sources.length)
        return [
          found(
            'translation-unanswered',
            'warning',
            `Nobody on the internet can answer whom “${name}” takes`,
            `They leave ${nameIn(context, device.id)} by ${port} with their own addresses, which are private.`,
          ),
        ];
      const { fixed } = uplinkSettings(site, device).find((one) => one.port === port) ?? { fixed: null };
      return as === 'pool' && !isOfUplink(pool, fixed?.address)
        ? [
            found(
              'translation-pool',
              'info',
              `The provider has to lead ${pool ?? ''} to ${port} of ${nameIn(context, device.id)}`,
              `The pool of “${name}” is not in the subnet that is said of the uplink: answers come back only if the provider knows.`,
            ),
          ]
        : [];
    }),
  );
};

/** Whether all of a pool is in the subnet of an uplink’s own address. */
function isOfUplink(pool: string | null | undefined, address: string | undefined): boolean {
  const [range, ip] = [readAddresses(pool ?? ''), parseIp(address?.split('/')[0] ?? '')];
  const length = Number(address?.split('/')[1]);
  if (!range || !ip || !(length >= 0 && length <= 32)) return false;
  const subnet = prefixOf(ip, length);
  return [range.first, range.last].every((value) => contains(subnet, { version: 4, value }));
}

export const TRANSLATION_CHECKS: readonly Check[] = [
  ...takenChecks<Translation>({
    kind: 'translation',
    listOf: ({ translations }) => translations,
    inOrder: translationsOf,
    resolved: resolvedTranslations,
    hides: (before, each) => before.port === each.port,
  }),
  unanswered,
];
