import { sheetFor } from '@iron-lattice/core/hardware';
import type { Hang, MeshTree } from '@iron-lattice/core/assess';
import type { DeviceView } from '@iron-lattice/core/intake';
import {
  meshSetting,
  type Link,
  type MeshFields,
  type MeshSetting,
  type MeshWhen,
  type RosterDevice,
  type SitePart,
} from '@iron-lattice/core/intent';
import type { MeshReport } from '@iron-lattice/core/line';

/** How one AP hangs: what is said, what would come of it, and how it is now. */
export interface MeshRow {
  /** The device's id. */
  readonly key: string;
  readonly device: RosterDevice;
  readonly setting: MeshSetting;
  /** By radio, as the draft has it; null: on its cable, or on nobody. */
  readonly hang: Hang | null;
  /** Whether it would have to hang by radio, and nobody takes it. */
  readonly loose: boolean;
  /** Who takes it when its cable fails; null: nobody, or it is not to be. */
  readonly standby: Hang | null;
  /** Whether a cable is seen at it. */
  readonly cabled: boolean;
  /** As it last reported. */
  readonly now: MeshReport | null;
}

export const WHEN: Readonly<Record<MeshWhen, string>> = {
  never: 'never',
  fallback: 'while its cable fails',
  always: 'always',
};

/** Every AP of a site, in the order of names. */
export function meshRows(
  site: SitePart,
  roster: readonly RosterDevice[],
  links: readonly Link[],
  views: readonly DeviceView[],
  tree: MeshTree,
): MeshRow[] {
  const facts = new Map(views.map((view) => [view.id, view]));
  const cabled = new Set(
    links.flatMap((link) => (link.hangs ? [] : [link.a, link.b].map((end) => `${end.deviceId} ${end.port}`))),
  );
  const loose = new Set(tree.loose.map(({ deviceId }) => deviceId));
  return roster.flatMap((device): MeshRow[] => {
    const sheet = sheetFor(device);
    if (sheet.kind !== 'ap') return [];
    return [
      {
        key: device.id,
        device,
        setting: meshSetting(site, device),
        hang: tree.hangs.get(device.id) ?? null,
        loose: loose.has(device.id) || tree.cut.has(device.id),
        standby: tree.standby.get(device.id) ?? null,
        cabled: cabled.has(`${device.id} ${sheet.ports[0]!.name}`),
        now: facts.get(device.id)?.mesh ?? null,
      },
    ];
  });
}

const SAID: Readonly<Record<keyof MeshFields, string>> = {
  when: 'when',
  band: 'band',
  hops: 'hops',
  parents: 'whom it may hang on',
};
/** What is said of an AP alone, in words. */
export const ownWords = ({ setting }: MeshRow): string => setting.own.map((key) => SAID[key]).join(', ');

/** What of the speed of a hop is left behind all hops of its way, from 0 to 1; null where it is not known. */
export const lostOf = ({ link, way }: Hang): number | null => (link && way !== null ? 1 - way / link : null);
