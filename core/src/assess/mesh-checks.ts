import type { MeshEntry } from '../intent';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding, Mend } from './finding';
import { LEAST_HANG, type Hang, type Loose } from './mesh-tree';

/** Signal in dBm below which a link between APs is slow, and the first to fail when somebody stands in its way. */
const SOUND = -70;

function finding(
  context: CheckContext,
  deviceId: string,
  say: Pick<Finding, 'code' | 'severity' | 'message' | 'reason'>,
  mend: Mend | null = null,
): Finding {
  return {
    key: `${say.code} ${deviceId}`,
    place: { siteId: context.site.id, kind: 'mesh', id: deviceId },
    mend,
    ...say,
  };
}

/** Why nobody takes an AP, in words. */
function whyNobody(context: CheckContext, { deviceId, why, setting, best }: Loose): string {
  const { band, parents, hops } = setting;
  const whom = parents === 'any' ? 'any AP of the site' : parents.map((id) => nameIn(context, id)).join(', ');
  switch (why) {
    case 'off':
      return `Its ${band} GHz radio is off.`;
    case 'silent':
      return `It may hang on ${whom} at ${band} GHz, and none of them sends there.`;
    case 'unheard':
      return `Nobody knows how well it hears ${whom} at ${band} GHz. Scan the air of the site.`;
    case 'weak':
      return `It would hear ${nameIn(context, best!.parentId)} the best, at ${best!.signal} dBm; below ${LEAST_HANG} dBm nothing holds.`;
    case 'hops':
      return `${nameIn(context, best!.parentId)}, which it hears at ${best!.signal} dBm, is more than ${hops - 1} hops from a cable, or has none itself. At most ${hops} are allowed ${nameIn(context, deviceId)}.`;
  }
}

/** APs that hang by radio now and would not any more, with no cable to hang on. */
export const cutFromParent: Check = (context) =>
  [...context.tree.cut].map(([id, parentId]): Finding => {
    const [name, parent] = [nameIn(context, id), nameIn(context, parentId)];
    const from = context.site.meshAps?.[id] ?? null;
    const to: MeshEntry = { ...from, when: 'fallback' };
    const siteId = context.site.id;
    return finding(
      context,
      id,
      {
        code: 'mesh.cut',
        severity: 'error',
        message: `${name} would be cut off: it hangs on ${parent} by radio, and on no cable`,
        reason: `It is said to hang on cables alone, and none is seen at it. Once it is told so, nothing reaches it any more.`,
      },
      context.site.mesh
        ? {
            label: `let ${name} hang by radio while its cable fails`,
            operations: [{ type: 'mesh.set', siteId, deviceId: id, from, to }],
          }
        : null,
    );
  });

/** APs that would have to hang by radio and that nobody takes. */
export const withoutParent: Check = (context) =>
  context.tree.loose.map((loose): Finding => {
    const name = nameIn(context, loose.deviceId);
    return finding(context, loose.deviceId, {
      code: 'mesh.nobody',
      severity: 'error',
      message: `${name} has nobody to hang on by radio`,
      reason: whyNobody(context, loose),
    });
  });

/** APs whose cable fails and nobody takes them. */
export const withoutStandby: Check = (context) =>
  context.tree.alone.map((loose): Finding => {
    const name = nameIn(context, loose.deviceId);
    return finding(context, loose.deviceId, {
      code: 'mesh.no-standby',
      severity: loose.why === 'unheard' ? 'info' : 'warning',
      message: `Nobody takes ${name} when its cable fails`,
      reason: whyNobody(context, loose),
    });
  });

/** Links by radio that are barely heard. */
export const weakHang: Check = (context) =>
  [...context.tree.hangs.values()].flatMap((hang): Finding[] => {
    const { deviceId, parentId, signal } = hang;
    if (signal === null || signal >= SOUND) return [];
    return [
      finding(context, deviceId, {
        code: 'mesh.weak',
        severity: 'warning',
        message: `${nameIn(context, deviceId)} hears ${nameIn(context, parentId)} weakly, at ${signal} dBm`,
        reason: `${speedWords(hang)} A door that shuts or somebody who stands in the way is enough to lose it; ${SOUND} dBm and more would hold.`,
      }),
    ];
  });

const speedWords = ({ way }: Hang): string => (way === null ? '' : `All behind it share ${Math.round(way)} Mb/s.`);

/** Links by radio on channels that everybody has to leave when radar is heard. */
export const hangOnRadar: Check = (context) =>
  [...context.tree.hangs.values()].flatMap(({ deviceId, parentId, band }): Finding[] => {
    const parent = context.documents.get(parentId);
    const radio = parent?.kind === 'ap' ? parent.radios?.find((each) => each.band === band) : undefined;
    if (!radio?.radar) return [];
    const name = nameIn(context, deviceId);
    return [
      finding(context, deviceId, {
        code: 'mesh.radar',
        severity: 'warning',
        message: `${name} hangs on a channel that is shared with radar`,
        reason: `When radar is heard ${nameIn(context, parentId)} leaves channel ${radio.at?.channel ?? ''} at once, and ${name} with all behind it is away until it finds it again.`,
      }),
    ];
  });

export const MESH_CHECKS: readonly Check[] = [cutFromParent, withoutParent, withoutStandby, weakHang, hangOnRadar];
