import { USUAL_MESH, MESH_KEY_LENGTH, type MeshSite, type Operation, type SitePart } from '@iron-lattice/core/intent';

/** Edits with the secrets that they refer to. */
export interface MeshEdit {
  readonly operations: readonly Operation[];
  readonly secrets: Readonly<Record<string, string>>;
}

/** Says something for the whole site; the first time with a key by which its APs know each other. */
export function siteEdit(site: SitePart, change: Partial<Omit<MeshSite, 'key'>>): MeshEdit {
  const { mesh: from = null } = site;
  const secret = from?.key.secret ?? crypto.randomUUID();
  const to: MeshSite = { ...USUAL_MESH, ...from, ...change, key: { secret } };
  return {
    operations: [{ type: 'mesh.site', siteId: site.id, from, to }],
    secrets: from ? {} : { [secret]: newKey() },
  };
}

/** Edits of single APs; where the site says nothing yet, what it says first. */
export function withSite(site: SitePart, operations: readonly Operation[]): MeshEdit {
  if (site.mesh || operations.length === 0) return { operations, secrets: {} };
  const first = siteEdit(site, {});
  return { operations: [...first.operations, ...operations], secrets: first.secrets };
}

/** A key that nobody has to type. */
function newKey(): string {
  const letters = 'ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz23456789';
  const dice = crypto.getRandomValues(new Uint32Array(MESH_KEY_LENGTH));
  return [...dice].map((die) => letters[die % letters.length]).join('');
}
