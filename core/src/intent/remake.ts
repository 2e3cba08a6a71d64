import { saidOf } from './by-site';
import { pick } from './field-change';
import type { Intent, Part } from './part';
import { nounOf, partKeyOf, type Operation } from './registry';

type Fields = Readonly<Record<string, unknown>>;
const isRecord = (value: unknown): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/**
 * An edit as whoever made it would make it now: it names what is there as what it saw, and wants the same. For an edit that no
 * longer fits since somebody else was first.
 * @returns null when there is nothing left that it could be made of.
 */
export function remade(operation: Operation, { estate, sites }: Intent): Operation | null {
  const key = partKeyOf(operation);
  const part = key === 'estate' ? estate : sites.get(key);
  if (!part) return null;
  if (operation.type === 'controller.set') return { ...operation, from: estate.controller ?? [] };
  if (operation.type === 'overlay.set') return { ...operation, from: estate.overlay ?? null };
  if (operation.type === 'port.set' || operation.type === 'port.untagged') {
    const entry = part.kind === 'site' ? part.ports[operation.deviceId]?.[operation.port] : undefined;
    return operation.type === 'port.set'
      ? { ...operation, from: entry ?? null }
      : { ...operation, from: entry?.untagged ?? null };
  }
  if (part.kind === 'site') {
    if (operation.type === 'radio.band') return { ...operation, from: part.bands?.[operation.band] ?? null };
    if (operation.type === 'radio.set')
      return { ...operation, from: part.radios?.[operation.deviceId]?.[operation.band] ?? null };
    if (operation.type === 'mesh.set') return { ...operation, from: part.meshAps?.[operation.deviceId] ?? null };
    if (operation.type === 'uplink.set')
      return { ...operation, from: part.uplinks?.[operation.deviceId]?.[operation.port] ?? null };
    if (operation.type === 'uplink.leaving') return { ...operation, from: part.leaving?.[operation.deviceId] ?? null };
    if (operation.type === 'mesh.site') {
      const { mesh: from = null } = part;
      // Whoever was first made the key.
      return { ...operation, from, to: operation.to && from ? { ...operation.to, key: from.key } : operation.to };
    }
  }
  if (operation.type === 'rule.move') {
    const rules = rulesOf(part, operation);
    const at = rules.findIndex(({ id }) => id === operation.ruleId);
    return at < 0 ? null : { ...operation, from: rules[at - 1]?.id ?? null };
  }
  const raw = operation as unknown as Fields;
  const [noun] = operation.type.split('.') as [string];
  const thing = thingOf(part, raw[`${noun}Id`]);
  if (!operation.type.endsWith('.set') || !thing || !isRecord(raw['to'])) return null;
  const [from, to] = [pick(thing, raw['to']) as Fields, raw['to']];
  // Of what says something of single sites it wants the same at those that it spoke of, and takes out what it took out.
  const before = isRecord(raw['from']) ? raw['from'] : {};
  const fields = nounOf(operation).bySite?.filter((field) => field in to) ?? [];
  const seen = fields.map((field) => [field, saidOf(thing[field], before[field], to[field])]);
  return { ...operation, from: { ...from, ...(Object.fromEntries(seen) as Fields) } } as Operation;
}

function rulesOf(part: Part, of: Operation): readonly { readonly id: string }[] {
  if (part.kind === 'site') return part.rules ?? [];
  return ('book' in of && of.book === 'after' ? part.rulesAfter : part.rulesBefore) ?? [];
}

/** A thing of a part, by its id. */
function thingOf(part: Part, id: unknown): Fields | null {
  for (const list of Object.values(part) as unknown[]) {
    if (!Array.isArray(list)) continue;
    const found: unknown = list.find((each: unknown) => isRecord(each) && each['id'] === id);
    if (isRecord(found)) return found;
  }
  return null;
}
