import {
  contains,
  formatIp,
  formatPrefix,
  nextFreePrefix,
  overlaps,
  parsePrefix,
  prefixOf,
  usableHosts,
  type Prefix,
} from '../address';
import { flaw, type Flaw } from '../base';
import { apply, type Intent, type Operation, type Recipe, type Segment, type SitePart } from '../intent';
import { proposeAddresses, subnetsWithin } from './segment-proposal';

/** What stamping a recipe does at one site. */
export interface RecipeStamp {
  readonly siteId: string;
  readonly siteName: string;
  /** `add`: a new segment; `change`: one stamped before follows the recipe again; `same`: nothing to do; `refused`. */
  readonly does: 'add' | 'change' | 'same' | 'refused';
  readonly subnet: string;
  readonly operations: readonly Operation[];
  readonly flaws: readonly Flaw[];
}

/**
 * Stamps a recipe into sites, in the given order, each with a subnet of its own: from the recipe's parent the next that
 * is free, else in the site's own block with the VLAN ID as third octet where it can be, else the next free one there.
 * A site that was stamped before keeps its subnet and follows the recipe in all else.
 * @param idFor makes an id for each new segment.
 */
export function stampRecipe(
  intent: Intent,
  recipe: Recipe,
  siteIds: readonly string[],
  idFor: () => string,
): RecipeStamp[] {
  let now = intent;
  return siteIds.flatMap((siteId): RecipeStamp[] => {
    const site = now.sites.get(siteId);
    if (!site) return [];
    const base = { siteId, siteName: site.name };
    const old = site.segments.find((segment) => segment.recipeId === recipe.id);
    const subnet = old ? parsePrefix(old.subnet) : subnetFor(now, site, recipe);
    if (!subnet) {
      const where = recipe.parent ?? `the block of ${site.name}`;
      const full = flaw('recipe.no-space', `No /${recipe.length} is free in ${where}.`);
      return [{ ...base, does: 'refused', subnet: '', operations: [], flaws: [full] }];
    }
    const operation = old ? changeTo(siteId, old, recipe) : addOf(siteId, recipe, subnet, idFor());
    const text = formatPrefix(subnet);
    if (!operation) return [{ ...base, does: 'same', subnet: text, operations: [], flaws: [] }];
    const result = apply(now, operation, () => undefined);
    if (!result.ok) return [{ ...base, does: 'refused', subnet: text, operations: [], flaws: result.flaws }];
    now = result.intent;
    return [{ ...base, does: old ? 'change' : 'add', subnet: text, operations: [operation], flaws: [] }];
  });
}

function addOf(siteId: string, recipe: Recipe, subnet: Prefix, id: string): Operation {
  const gateway = { version: subnet.version, value: usableHosts(subnet).first };
  const range = recipe.leaseSeconds === null ? null : proposeAddresses(subnet, gateway);
  const segment: Segment = {
    id,
    name: recipe.name,
    vlan: recipe.vlan,
    subnet: formatPrefix(subnet),
    gateway: formatIp(gateway),
    addresses: range && { ...range, leaseSeconds: recipe.leaseSeconds! },
    purpose: recipe.purpose,
    domain: recipe.domain,
    recipeId: recipe.id,
  };
  return { type: 'segment.add', siteId, segment };
}

/** The edit that has a stamped segment follow its recipe again, or null when it does. */
function changeTo(siteId: string, old: Segment, recipe: Recipe): Operation | null {
  const wanted = {
    name: recipe.name,
    vlan: recipe.vlan,
    purpose: recipe.purpose || null,
    domain: recipe.domain || null,
    addresses:
      old.addresses && recipe.leaseSeconds !== null
        ? { ...old.addresses, leaseSeconds: recipe.leaseSeconds }
        : old.addresses,
  };
  const keys = (Object.keys(wanted) as (keyof typeof wanted)[]).filter(
    (key) => JSON.stringify(wanted[key] ?? null) !== JSON.stringify(old[key] ?? null),
  );
  if (keys.length === 0) return null;
  const pick = (from: Partial<Segment>) => Object.fromEntries(keys.map((key) => [key, from[key] ?? null]));
  return { type: 'segment.set', siteId, segmentId: old.id, from: pick(old), to: pick(wanted) };
}

/** Whether a segment that was stamped from a recipe is still as it says. */
export const followsRecipe = (segment: Segment, recipe: Recipe): boolean => changeTo('', segment, recipe) === null;

function subnetFor(intent: Intent, site: SitePart, recipe: Recipe): Prefix | null {
  const parent = recipe.parent === null ? blockOf(site) : parsePrefix(recipe.parent);
  if (!parent) return null;
  const used = subnetsWithin(intent, parent);
  if (recipe.parent === null && recipe.vlan <= 255) {
    const wanted = prefixOf({ version: 4, value: parent.network + (BigInt(recipe.vlan) << 8n) }, recipe.length);
    const free = !used.some((each) => overlaps(each, wanted));
    if (free && contains(parent, wanted)) return wanted;
  }
  return nextFreePrefix(parent, used, recipe.length);
}

/** The /16 around a site's management subnet. */
export function blockOf(site: SitePart): Prefix | null {
  const management = site.segments.find((segment) => segment.id === site.managementId);
  const subnet = management && parsePrefix(management.subnet);
  return subnet?.version === 4 ? prefixOf({ version: 4, value: subnet.network }, Math.min(16, subnet.length)) : null;
}
