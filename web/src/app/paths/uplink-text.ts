import type { SecretRef } from '@iron-lattice/core/base';
import type { UplinkEntry, UplinkFields, UplinkSetting } from '@iron-lattice/core/intent';
import { numberTyped } from '../ui/number-typed';
import { readTargets, writeTargets, type Watch } from '@iron-lattice/core/paths';

/** An uplink as its sheet reads. */
export interface UplinkText {
  readonly title: string;
  readonly way: UplinkFields['way'];
  readonly address: string;
  readonly gateway: string;
  readonly user: string;
  readonly password: string;
  readonly apn: string;
  readonly six: UplinkFields['six'];
  readonly address6: string;
  readonly gateway6: string;
  readonly vlan: string;
  readonly mtu: string;
  readonly clamp: boolean;
  readonly mac: string;
  readonly dns: string;
  readonly down: string;
  readonly up: string;
  readonly below: string;
  readonly allowance: string;
  readonly anew: string;
  readonly price: string;
  readonly translate: boolean;
  readonly role: UplinkFields['role'];
  readonly weight: string;
  readonly turn: string;
  /** Ports, parted by commas. */
  readonly instead: string;
  readonly targets: string;
  readonly interval: string;
  readonly losses: string;
  readonly timeout: string;
  readonly good: string;
  readonly hold: string;
}

const written = (value: number | null): string => (value === null ? '' : `${value}`);

export function textOf(setting: UplinkSetting): UplinkText {
  const { title, way, fixed, login, apn, six, fixed6, vlan, mtu, clamp, mac, dns, watched } = setting;
  const { down, up, below, allowance, anew, price, translate, role, weight, turn, instead } = setting;
  return {
    ...{ title: title ?? '', way, address: fixed?.address ?? '', gateway: fixed?.gateway ?? '' },
    ...{ user: login?.user ?? '', password: '', apn: apn ?? '', six },
    ...{ address6: fixed6?.address ?? '', gateway6: fixed6?.gateway ?? '', vlan: written(vlan), mtu: written(mtu) },
    ...{ clamp, mac: mac ?? '', dns: dns.join(', '), down: written(down), up: written(up), below: written(below) },
    ...{ allowance: written(allowance), anew: `${anew}`, price: written(price), translate, role },
    ...{ weight: `${weight}`, turn: `${turn}`, instead: instead.join(', '), targets: writeTargets(watched.targets) },
    ...{ interval: `${watched.interval}`, losses: `${watched.losses}`, timeout: `${watched.timeout}` },
    ...{ good: `${watched.good}`, hold: `${watched.hold}` },
  };
}

const wordTyped = (typed: string): string | null => typed.trim() || null;

/** What a watch is of what was typed. */
export const watchTyped = (text: UplinkText): Watch => ({
  targets: readTargets(text.targets),
  interval: numberTyped(text.interval) ?? -1,
  losses: numberTyped(text.losses) ?? -1,
  timeout: numberTyped(text.timeout) ?? -1,
  good: numberTyped(text.good) ?? -1,
  hold: numberTyped(text.hold) ?? -1,
});

/** Fields of the watch; any of them says it whole. */
const WATCHED: readonly (keyof UplinkText)[] = ['targets', 'interval', 'losses', 'timeout', 'good', 'hold'];

/**
 * What is said of an uplink once some of its text was changed.
 * @param from what is said of it now. @param password what the provider’s password is kept as; null: nowhere.
 */
export function entryTyped(
  from: UplinkEntry | null,
  text: UplinkText,
  changed: readonly (keyof UplinkText)[],
  password: SecretRef | null,
): UplinkEntry {
  const has = (...keys: (keyof UplinkText)[]): boolean => keys.some((key) => changed.includes(key));
  const fixed = (address: string, gateway: string) =>
    address.trim() === '' && gateway.trim() === '' ? null : { address: address.trim(), gateway: gateway.trim() };
  return {
    ...from,
    ...(has('title') ? { title: wordTyped(text.title) } : {}),
    ...(has('way') ? { way: text.way } : {}),
    ...(has('address', 'gateway') ? { fixed: fixed(text.address, text.gateway) } : {}),
    ...(has('user', 'password') ? { login: password && { user: text.user.trim(), password } } : {}),
    ...(has('apn') ? { apn: wordTyped(text.apn) } : {}),
    ...(has('six') ? { six: text.six } : {}),
    ...(has('address6', 'gateway6') ? { fixed6: fixed(text.address6, text.gateway6) } : {}),
    ...(has('vlan') ? { vlan: numberTyped(text.vlan) } : {}),
    ...(has('mtu') ? { mtu: numberTyped(text.mtu) } : {}),
    ...(has('clamp') ? { clamp: text.clamp } : {}),
    ...(has('mac') ? { mac: wordTyped(text.mac) } : {}),
    ...(has('dns') ? { dns: text.dns.split(/[\s,;]+/).filter(Boolean) } : {}),
    ...(has('down') ? { down: numberTyped(text.down) } : {}),
    ...(has('up') ? { up: numberTyped(text.up) } : {}),
    ...(has('below') ? { below: numberTyped(text.below) } : {}),
    ...(has('allowance') ? { allowance: numberTyped(text.allowance) } : {}),
    ...(has('anew') ? { anew: numberTyped(text.anew) ?? 1 } : {}),
    ...(has('price') ? { price: numberTyped(text.price) } : {}),
    ...(has('translate') ? { translate: text.translate } : {}),
    ...(has('role') ? { role: text.role } : {}),
    ...(has('weight') ? { weight: numberTyped(text.weight) ?? -1 } : {}),
    ...(has('turn') ? { turn: numberTyped(text.turn) ?? -1 } : {}),
    ...(has('instead') ? { instead: text.instead.split(/[\s,;]+/).filter(Boolean) } : {}),
    ...(has(...WATCHED) ? { watch: watchTyped(text) } : {}),
  };
}
