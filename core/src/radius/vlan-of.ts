import { isVlanId } from '../address';
import { TUNNEL_GROUP, TUNNEL_MEDIUM, TUNNEL_TYPE } from './dictionary';
import type { Attribute } from './packet';
import { textOfOctets } from './text';
import { taggedText } from './values';

/** What an answer says of a VLAN: its ID, its name, nothing, or something that is none. */
export type SaidVlan =
  | { readonly kind: 'id'; readonly vlan: number }
  | { readonly kind: 'name'; readonly name: string }
  | { readonly kind: 'none' }
  | { readonly kind: 'wrong'; readonly text: string };

const [VLAN, IEEE_802] = [13, 6];
export const NO_VLAN: SaidVlan = { kind: 'none' };

/**
 * The VLANs that an answer names, by tag, the lowest first (RFC 3580 §3.31, RFC 2868 §3): of the attributes with one tag all three must be
 * there, as VLAN and IEEE 802. A decimal is an ID, anything else a name. A number that no VLAN has is wrong: whoever is let in by it
 * must not fall to another segment. Attributes without a tag have 0.
 */
export function vlansByTag(attributes: readonly Attribute[]): ReadonlyMap<number, SaidVlan> {
  const groups = new Map<number, { type?: number; medium?: number; group?: Uint8Array }>();
  const at = (tag: number) => {
    const group = groups.get(tag) ?? {};
    groups.set(tag, group);
    return group;
  };
  for (const { type, value } of attributes) {
    if ((type === TUNNEL_TYPE || type === TUNNEL_MEDIUM) && value.length === 4) {
      const tag = value[0]! <= 0x1f ? value[0]! : 0;
      const number = (value[1]! << 16) | (value[2]! << 8) | value[3]!;
      if (type === TUNNEL_TYPE) at(tag).type ??= number;
      else at(tag).medium ??= number;
    } else if (type === TUNNEL_GROUP) {
      const [tag, text] = taggedText(value);
      at(tag).group ??= text;
    }
  }
  return new Map(
    [...groups]
      .sort(([a], [b]) => a - b)
      .flatMap(([tag, { type, medium, group }]) =>
        type === VLAN && medium === IEEE_802 && group ? [[tag, saidVlan(textOfOctets(group))] as const] : [],
      ),
  );
}

function saidVlan(text: string): SaidVlan {
  if (!/^[0-9]+$/.test(text)) return text === '' ? { kind: 'wrong', text } : { kind: 'name', name: text };
  return isVlanId(Number(text)) ? { kind: 'id', vlan: Number(text) } : { kind: 'wrong', text };
}

/** The VLAN that an answer names; of several that of the lowest tag. */
export const vlanOf = (attributes: readonly Attribute[]): SaidVlan =>
  vlansByTag(attributes).values().next().value ?? NO_VLAN;

/** The same as it is told: the ID in digits, or the text. */
export function vlanText(said: SaidVlan): string {
  switch (said.kind) {
    case 'id':
      return `${said.vlan}`;
    case 'name':
      return said.name;
    case 'wrong':
      return said.text;
    case 'none':
      return '';
  }
}
