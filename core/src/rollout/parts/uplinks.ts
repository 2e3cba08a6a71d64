import { sameValue } from '../../base';
import type { LeavingDocument, UplinkDocument } from '../../document';
import {
  leavingSetting,
  shapeOf,
  uplinkBase,
  uplinkSettings,
  USUAL_LEAVING,
  weightOf,
  type LeavingFields,
  type UplinkSetting,
} from '../../intent';
import { USUAL_WATCH } from '../../paths';
import { part, type Told } from '../part';
import { fact } from '../reads';

/** Weights of VLANs where they are not 1, by the gateway’s id. */
const vlanParts = fact(
  { site: ['leaving', 'segments'] },
  ({ leaving = {}, segments }): Readonly<Record<string, readonly { vlan: number; weight: number }[]>> =>
    Object.fromEntries(
      Object.entries(leaving).map(([deviceId, { parts = {} }]) => [
        deviceId,
        segments
          .flatMap(({ id, vlan }) => (parts[id] !== undefined && parts[id] !== 1 ? [{ vlan, weight: parts[id] }] : []))
          .sort((a, b) => a.vlan - b.vlan),
      ]),
    ),
  { settles: true },
);

/** A gateway’s ports to providers, and how it uses them together. */
export const uplinks = part({
  name: 'uplinks',
  kinds: ['gateway'],
  reads: { site: ['uplinks', 'leaving'], facts: { parts: vlanParts }, device: ['id', 'model', 'sheet', 'first'] },
  tells: ({ uplinks: said, leaving: saidTogether, parts }, device): Told => {
    const site = { ...(said ? { uplinks: said } : {}), ...(saidTogether ? { leaving: saidTogether } : {}) };
    const together = leavingSetting(site, device);
    const settings = uplinkSettings(site, device);
    const told = parts[device.id] ?? [];
    const leaving = { ...leavingTold(together), ...(told.length > 0 ? { parts: told } : {}) };
    return {
      uplinks: settings.map((setting, at) => uplinkTold(setting, at, together.by, uplinkBase(device, setting.port))),
      ...(Object.keys(leaving).length > 0 ? { leaving } : {}),
    };
  },
});

/** What an uplink is kept to. */
function shapeTold(setting: UplinkSetting): Pick<UplinkDocument, 'shape'> {
  const shape = shapeOf(setting);
  return shape ? { shape } : {};
}

const METHODS = { dhcp: 'dhcp', static: 'static', pppoe: 'pppoe', cellular: 'cellular', satellite: 'dhcp' } as const;

/** What of an uplink is told: what is not as usual. */
function uplinkTold(
  setting: UplinkSetting,
  at: number,
  by: LeavingFields['by'],
  base: ReturnType<typeof uplinkBase>,
): UplinkDocument {
  const { port, way, fixed, login, apn, six, fixed6, vlan, mtu, clamp, mac, dns, translate, role, turn, instead } =
    setting;
  const weight = weightOf(setting, by);
  const isUsualStandby = role === 'standby' && at > 0 && turn === at;
  return {
    port,
    method: METHODS[way],
    translate,
    ...(way === 'static' && fixed ? { fixed } : {}),
    ...(way === 'pppoe' && login ? { login } : {}),
    ...(way === 'cellular' && apn !== null ? { apn } : {}),
    ...(six === 'none' ? {} : { six }),
    ...(six === 'static' && fixed6 ? { fixed6 } : {}),
    ...(vlan === null ? {} : { vlan }),
    ...(mtu === null ? {} : { mtu }),
    ...(clamp ? {} : { clamp }),
    ...(mac === null ? {} : { mac }),
    ...(dns.length > 0 ? { dns } : {}),
    ...shapeTold(setting),
    ...(role === 'shares' && (at > 0 || weight !== base.weight) ? { weight } : {}),
    ...(role === 'standby' && weight !== base.weight ? { weight } : {}),
    ...(role === 'standby' && (!isUsualStandby || weight !== base.weight) ? { standby: turn } : {}),
    ...(role === 'standby' && instead.length > 0 ? { instead } : {}),
    ...(sameWatch(setting) ? {} : { watch: setting.watched }),
  };
}

const sameWatch = ({ watched }: UplinkSetting): boolean => sameValue(watched, USUAL_WATCH);

/** What of using them together is told: what is not as usual. */
function leavingTold({ stay, begins, back }: LeavingFields): LeavingDocument {
  return {
    ...(stay ? {} : { stay }),
    ...(begins === 'any' ? { begins } : {}),
    ...(back === USUAL_LEAVING.back ? {} : { back }),
  };
}
