import { sheetFor, type SheetPort } from '@iron-lattice/core/hardware';
import {
  coursesOf,
  leavingSetting,
  uplinkPorts,
  uplinkSetting,
  weightOf,
  type Course,
  type LeavingFields,
  type RosterDevice,
  type SitePart,
  type UplinkSetting,
} from '@iron-lattice/core/intent';
import {
  allowanceState,
  shareVerdict,
  type GatewayPathsView,
  type PathState,
  type PathView,
  type SitePathsView,
} from '@iron-lattice/core/paths';
import { octetsWords } from '../ui/octets-words';

/** One uplink as the drawing and the sheet show it. */
export interface UplinkRow {
  /** `device:port`. */
  readonly key: string;
  readonly device: RosterDevice;
  readonly socket: SheetPort;
  readonly port: string;
  readonly setting: UplinkSetting;
  /** As its gateway last told it; null: it did not. */
  readonly fact: PathView | null;
  /** Share of what leaves that is asked for while all are good, from 0 to 1; 0: it stands by. */
  readonly share: number;
  /** Sessions that began on it, and how many would be no surprise; null while none were counted. */
  readonly counted: {
    readonly sessions: number;
    readonly of: number;
    readonly least: number;
    readonly most: number;
  } | null;
}

/** A gateway with its uplinks. */
export interface GatewayRow {
  readonly device: RosterDevice;
  readonly leaving: LeavingFields;
  readonly fact: GatewayPathsView | null;
  readonly uplinks: readonly UplinkRow[];
  /** What leaves otherwise than the rest, in the order in which it decides. */
  readonly courses: readonly Course[];
  /** Ports that could be made uplinks as well. */
  readonly spare: readonly SheetPort[];
  /** Whether sessions are shared as asked for among those that are used; null: it is of one alone, or none were counted. */
  readonly fits: boolean | null;
}

/** Every gateway of a site, with its uplinks in the order of its sheet. */
export function gatewayRows(site: SitePart, roster: readonly RosterDevice[], view: SitePathsView | null): GatewayRow[] {
  return roster
    .filter((device) => sheetFor(device).kind === 'gateway')
    .map((device): GatewayRow => {
      const fact = view?.gateways.find(({ deviceId }) => deviceId === device.id) ?? null;
      const leaving = leavingSetting(site, device);
      const all = uplinkPorts(device).map((socket) => ({ socket, setting: uplinkSetting(site, device, socket.name) }));
      const on = all.filter(({ setting }) => setting.on);
      const weights = on.map(({ setting }) => (setting.role === 'shares' ? weightOf(setting, leaving.by) : 0));
      const sum = weights.reduce((total, weight) => total + weight, 0);
      const used = (fact?.uplinks ?? []).filter((each) => each.used);
      const verdict = shareVerdict(
        used.map(({ sessions }) => sessions),
        used.map(({ weight }) => weight ?? 1),
      );
      const counts = used.reduce((total, { sessions }) => total + sessions, 0);
      const uplinks = on.map(({ socket, setting }, i): UplinkRow => {
        const known = fact?.uplinks.find(({ port }) => port === setting.port) ?? null;
        const at = used.findIndex(({ port }) => port === setting.port);
        const range = verdict.ranges[at];
        return {
          ...{ key: `${device.id}:${setting.port}`, device, socket, port: setting.port, setting, fact: known },
          share: sum === 0 ? 0 : weights[i]! / sum,
          counted: range && counts > 0 ? { sessions: used[at]!.sessions, of: counts, ...range } : null,
        };
      });
      const spare = all.filter(({ setting }) => !setting.on).map(({ socket }) => socket);
      const courses = coursesOf(site, device.id);
      return {
        device,
        leaving,
        fact,
        uplinks,
        courses,
        spare,
        fits: used.length > 1 && counts > 0 ? verdict.fits : null,
      };
    });
}

export const STATE_WORDS: Readonly<Record<PathState, string>> = {
  unplugged: 'no cable',
  none: 'no address',
  gone: 'gone',
  good: 'good',
  waits: 'good, waits to be used',
};

/** What an uplink is called. */
export const titleOf = ({ setting, port }: Pick<UplinkRow, 'setting' | 'port'>): string => setting.title ?? port;

/** How an uplink fares, in words. @param time writes a moment. */
export function fareWords({ fact, setting }: UplinkRow, time: (ms: number) => string): string {
  if (!fact) return 'not told yet';
  const { state, since, why, six, delay, jitter, loss, flaps } = fact;
  const words = [
    ...(state === 'unplugged' ? ['no cable in it'] : [`${STATE_WORDS[state]} since ${time(since)}`]),
    ...(state === 'none' && why ? [why] : []),
    ...(state !== 'none' && six && six.address === null ? [`no IPv6: ${six.why ?? 'nobody gave any'}`] : []),
    ...(delay === undefined || state === 'none' ? [] : [`${delay} ms${jitter ? ` ± ${jitter}` : ''}`]),
    ...(loss ? [`${Math.round(loss * 100)} % of questions without an answer`] : []),
    ...(flaps ? [`came and went ${flaps + 1} times`] : []),
  ];
  return setting.role === 'standby' && state === 'good' && !fact.used
    ? `stands by, ${words.join(' · ')}`
    : words.join(' · ');
}

/** What a provider gave of IPv6, in words; empty where nothing is known. @param time writes a moment. */
export function sixWords({ fact }: Pick<UplinkRow, 'fact'>, time: (ms: number) => string): string {
  const six = fact?.six;
  if (!six) return '';
  if (six.address === null) return six.why ?? 'Nobody gave any.';
  const inside = six.prefix === undefined ? '' : `; ${six.prefix} for the inside`;
  return `${six.address}, gateway ${six.gateway ?? '?'}${inside}, since ${time(six.since)}`;
}

/** Sessions in words: how many of how many, and whether that is what was asked for. */
export function countedWords({ counted, fact }: UplinkRow): string {
  if (!counted || !fact?.used) return '';
  const { sessions, of, least, most } = counted;
  const share = `${Math.round((100 * sessions) / of)} % of ${of.toLocaleString('en')} session${of === 1 ? '' : 's'}`;
  if (least >= of) return share;
  const fits = sessions >= least && sessions <= most;
  return `${share}; ${fits ? 'as asked for' : 'not as asked for'}: ${percent(least, of)}–${percent(most, of)} % would be no surprise`;
}

const percent = (count: number, of: number): number => Math.round((100 * count) / of);

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' });

/** What an uplink carried since its allowance began anew, and how that stands. @param now in milliseconds since 1970. */
export function carriedWords(
  { fact, setting }: Pick<UplinkRow, 'fact' | 'setting'>,
  now = Date.now(),
): { readonly words: string; readonly tone: '' | 'caution' | 'bad' } {
  const carried = fact?.carried;
  if (!carried) return { words: '', tone: '' };
  const { octets, since } = carried;
  const from = `since ${day.format(Date.parse(since))}`;
  const { allowance } = setting;
  if (allowance === null) return { words: `${octetsWords(octets)} ${from}`, tone: '' };
  const today = new Date(now).toISOString().slice(0, 10);
  const state = allowanceState(
    { octets, since, today, part: (now % 86_400_000) / 86_400_000 },
    { ...setting, allowance },
  );
  const used = `${octetsWords(octets)} of ${allowance} GB ${from}`;
  if (state.share >= 1) {
    const cost = state.cost > 0 ? `; what is beyond costs ${Number(state.cost.toFixed(2))}` : '';
    return { words: `The allowance is used up: ${used}${cost}`, tone: 'bad' };
  }
  const pace = state.until === null ? '' : `, used up on ${day.format(Date.parse(state.until))} at this pace`;
  return { words: `${used}${pace}`, tone: state.until === null ? '' : 'caution' };
}
