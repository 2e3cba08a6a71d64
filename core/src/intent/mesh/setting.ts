import { sheetFor, type Band } from '../../hardware';
import type { SitePart } from '../part';
import type { RosterDevice } from '../roster';
import { USUAL_MESH, type MeshFields } from './mesh';

/** A site as far as its APs hang on each other. */
export type HangingSite = Pick<SitePart, 'mesh' | 'meshAps'>;
type MeshDevice = Pick<RosterDevice, 'id' | 'model' | 'sheet'>;

/** Everything intended for how an AP hangs on others. */
export interface MeshSetting extends MeshFields {
  /** Fields in which it differs from its site. */
  readonly own: readonly (keyof MeshFields)[];
}

/** What holds at an AP before anything is said of that one alone. */
export function meshBase({ mesh }: HangingSite, device: MeshDevice): MeshFields {
  const { when, band, hops } = mesh ?? USUAL_MESH;
  return { when, band: bandFor(device, band), hops, parents: 'any' };
}

/** What is intended for an AP; of a site that says nothing of its APs, none hangs by radio. */
export function meshSetting(site: HangingSite, device: MeshDevice): MeshSetting {
  const base = meshBase(site, device);
  const entry = site.mesh ? (site.meshAps?.[device.id] ?? {}) : {};
  const keys = Object.keys(entry) as (keyof MeshFields)[];
  return { ...base, ...entry, own: keys.filter((key) => entry[key] !== base[key]) };
}

/** The band that is asked for where the model has a radio for it, else the highest below it that it has. */
function bandFor(device: MeshDevice, asked: Band): Band {
  const bands = sheetFor(device).radios.map(({ band }) => band);
  return bands.includes(asked) ? asked : (bands.findLast((band) => Number(band) < Number(asked)) ?? bands[0] ?? asked);
}
