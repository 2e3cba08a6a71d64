import { USUAL_AGAIN, USUAL_QUIET, type AskingDocument, type PortAsks, type PortDocument } from '../../document';
import { AIRED, ASKED_SEGMENTS, portSetting, type PortSetting, type ResolvedSite, type Segment } from '../../intent';
import { airedVlans, allVlans, ascending, hoursById, keptVlans, portalsById, segmentsById } from '../facts';
import type { Seen, SeenDevice } from '../reads';

/** What settings of ports are turned into VLAN IDs with. */
export const forPorts = {
  byId: segmentsById,
  aired: airedVlans,
  all: allVlans,
  kept: keptVlans,
  within: hoursById,
  portals: portalsById,
};
type ForPorts = Seen<'managementId' | 'duties', never, never, typeof forPorts>;

/** Settings of some ports of a device as it is told them. */
export function portDocuments(
  seen: ForPorts,
  device: SeenDevice<'id' | 'model' | 'sheet'>,
  names: readonly { readonly name: string }[],
): PortDocument[] {
  const site: Pick<ResolvedSite, 'ports' | 'managementId' | 'duties'> = {
    managementId: seen.managementId,
    ...(seen.duties ? { duties: seen.duties } : {}),
    ports: { [device.id]: device.ports },
  };
  return names.map(({ name }) => portDocument(seen, name, portSetting(site, device, name)));
}

function portDocument(seen: ForPorts, name: string, setting: PortSetting): PortDocument {
  const { byId, aired, all, kept, within, portals } = seen;
  // Where a client's class says its VLAN, nothing else passes.
  const asks = setting.auth !== 'none';
  const untagged =
    setting.auth === 'mac' || setting.untagged === null ? null : (byId.get(setting.untagged)?.vlan ?? null);
  const { poe, priority, speed, isolated, storm, group } = setting;
  const document: { -readonly [K in keyof PortDocument]: PortDocument[K] } = {
    name,
    untagged,
    tagged: asks ? [] : without(setting.tagged === 'all' ? all : listed(setting.tagged, byId, aired), untagged),
  };
  if (poe === 'off') document.poe = poe;
  if (priority !== 'low') document.priority = priority;
  if (speed !== 'auto') document.speed = speed;
  if (setting.auth !== 'none') Object.assign(document, askingDocument(byId, kept, setting, setting.auth));
  // A port that carries more leads to a device of ours: what hangs there is not one client.
  if (isolated || (kept.includes(untagged ?? 0) && document.tagged.length === 0)) document.isolated = true;
  if (storm !== 100) document.storm = storm;
  if (group !== null) document.group = group;
  const hours = setting.hours === null ? undefined : within.get(setting.hours);
  if (hours) document.hours = hours;
  const portal = setting.portal === null ? undefined : portals.get(setting.portal);
  if (portal) document.portal = portal;
  return document;
}

/** What a port asks, where that is not the usual. */
function askingDocument(
  byId: ReadonlyMap<string, Segment>,
  kept: readonly number[],
  setting: PortSetting,
  auth: PortAsks,
): AskingDocument {
  const { hosts, quiet, again } = setting;
  const vlans = ASKED_SEGMENTS.flatMap((field) => {
    const segment = setting[field] === null ? undefined : byId.get(setting[field]);
    return segment && (field !== 'voice' || hosts === 'phone') ? [[field, segment.vlan] as const] : [];
  });
  const apart = ascending(vlans.flatMap(([, vlan]) => (kept.includes(vlan) ? [vlan] : [])));
  return {
    auth,
    ...(apart.length > 0 ? { apart } : {}),
    ...(hosts === 'several' ? {} : { hosts }),
    ...Object.fromEntries(vlans),
    ...(quiet === USUAL_QUIET ? {} : { quiet }),
    ...(again === USUAL_AGAIN ? {} : { again }),
  };
}

const NONE: readonly number[] = [];

function listed(
  tagged: readonly string[],
  byId: ReadonlyMap<string, Segment>,
  aired: readonly number[],
): readonly number[] {
  if (tagged.length === 0) return NONE;
  return ascending(
    tagged.flatMap((id): readonly number[] => {
      if (id === AIRED) return aired;
      const segment = byId.get(id);
      return segment ? [segment.vlan] : NONE;
    }),
  );
}

const without = (vlans: readonly number[], vlan: number | null): readonly number[] =>
  vlan !== null && vlans.includes(vlan) ? vlans.filter((each) => each !== vlan) : vlans;
