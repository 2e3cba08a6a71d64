import { flaw, sameValue, type Flaw } from '../../base';
import { sheetFor } from '../../hardware';
import { refuse, withSite, type EditContext, type Outcome, type RosterLookup } from '../edit';
import { siteGone } from '../kept-list';
import type { Intent, SitePart } from '../part';
import type { RosterDevice } from '../roster';
import type { MeshEntry } from './mesh';
import type { MeshOperation, MeshSetOperation, MeshSiteOperation } from './operations';
import { meshBase } from './setting';

/** Applies an edit of how APs of a site hang on each other. */
export function applyMesh(intent: Intent, operation: MeshOperation, { roster }: EditContext): Outcome<MeshOperation> {
  const site = intent.sites.get(operation.siteId);
  if (!site) return refuse(siteGone());
  return operation.type === 'mesh.site'
    ? setSite(intent, site, operation, roster)
    : setAp(intent, site, operation, roster);
}

function setSite(
  intent: Intent,
  site: SitePart,
  operation: MeshSiteOperation,
  roster: RosterLookup,
): Outcome<MeshOperation> {
  const { from, to } = operation;
  if (!sameValue(site.mesh ?? null, from))
    return refuse(flaw('mesh.changed', 'Somebody changed how APs of this site hang on each other meanwhile.'));
  if (from && to && from.key.secret !== to.key.secret)
    return refuse(flaw('mesh.key', 'The key between APs stays: those that hang by radio could not be told another.'));
  const said = Object.keys(site.meshAps ?? {});
  if (!to && said.length > 0) {
    const names = said.map((id) => roster(id)?.name ?? id);
    const text = `Of ${names.slice(0, 3).join(', ')}${names.length > 3 ? ` and ${names.length - 3} more` : ''} something is said by itself. Take that back first.`;
    return refuse(flaw('mesh.in-use', text));
  }
  const { mesh: _mesh, ...rest } = site;
  return {
    ok: true,
    intent: withSite(intent, to ? { ...rest, mesh: to } : rest),
    inverse: { ...operation, from: to, to: from },
  };
}

function setAp(
  intent: Intent,
  site: SitePart,
  operation: MeshSetOperation,
  roster: RosterLookup,
): Outcome<MeshOperation> {
  const device = roster(operation.deviceId);
  const here = device?.siteId === site.id && sheetFor(device).kind === 'ap';
  // What was said of one that is gone can be taken back.
  if (!device || (!here && operation.to))
    return refuse(flaw('mesh.device-unknown', 'This access point is no longer at the site.'));
  if (!site.mesh) return refuse(flaw('mesh.off', `Say first how APs of ${site.name} may hang on each other by radio.`));
  const now = site.meshAps?.[device.id] ?? null;
  if (!sameValue(now, operation.from))
    return refuse(flaw('mesh.changed', `Somebody changed how ${device.name} hangs on others meanwhile.`));
  const entry = normal(operation.to);
  const flaws = checkEntry(site, device, entry, roster);
  if (flaws.length > 0) return refuse(...flaws);
  const kept = Object.keys(entry).length > 0 ? entry : null;
  const { [device.id]: _old, ...others } = site.meshAps ?? {};
  const aps = kept ? { ...others, [device.id]: kept } : others;
  const { meshAps: _aps, ...rest } = site;
  const next: SitePart = Object.keys(aps).length > 0 ? { ...rest, meshAps: aps } : rest;
  return { ok: true, intent: withSite(intent, next), inverse: { ...operation, from: kept, to: operation.from } };
}

/** What is said, without what says nothing; parents in one order, each once. */
function normal(entry: MeshEntry | null): MeshEntry {
  const said = Object.entries(entry ?? {}).filter(
    ([key, value]) => value !== undefined && !(key === 'parents' && value === 'any'),
  );
  const { parents, ...rest } = Object.fromEntries(said) as MeshEntry;
  return { ...rest, ...(parents && parents !== 'any' ? { parents: [...new Set(parents)].sort() } : {}) };
}

function checkEntry(site: SitePart, device: RosterDevice, entry: MeshEntry, roster: RosterLookup): Flaw[] {
  const flaws: Flaw[] = [];
  const { band, parents = 'any' } = { ...meshBase(site, device), ...entry };
  if (!sheetFor(device).radios.some((radio) => radio.band === band))
    flaws.push(flaw('mesh.band', `${device.name} has no radio for ${band} GHz.`, 'band'));
  if (parents === 'any') return flaws;
  if (parents.length === 0)
    flaws.push(flaw('mesh.no-parent', 'Name at least one AP to hang on, or let it be any.', 'parents'));
  for (const id of parents) {
    const parent = roster(id);
    if (id === device.id) flaws.push(flaw('mesh.itself', `${device.name} cannot hang on itself.`, 'parents'));
    else if (!parent || parent.siteId !== site.id || sheetFor(parent).kind !== 'ap')
      flaws.push(flaw('mesh.parent-unknown', 'An AP that it should hang on is no longer at the site.', 'parents'));
    else if (!sheetFor(parent).radios.some((radio) => radio.band === band))
      flaws.push(
        flaw('mesh.band', `${parent.name}, which it should hang on, has no radio for ${band} GHz.`, 'parents'),
      );
  }
  return flaws;
}

/** An edit in words. */
export const meshWords = (operation: MeshOperation): string =>
  operation.type === 'mesh.site' ? 'how APs hang on each other changed' : 'how an AP hangs on others changed';
