import type { OfSite } from '../kept-list';
import type { MeshEntry, MeshSite } from './mesh';

/** What a site says of APs without a cable; null: nothing. */
export interface MeshSiteOperation extends OfSite {
  readonly type: 'mesh.site';
  readonly from: MeshSite | null;
  readonly to: MeshSite | null;
}

/** All that was said of how one AP hangs on others; null: nothing. */
export interface MeshSetOperation extends OfSite {
  readonly type: 'mesh.set';
  readonly deviceId: string;
  readonly from: MeshEntry | null;
  readonly to: MeshEntry | null;
}

export type MeshOperation = MeshSiteOperation | MeshSetOperation;
