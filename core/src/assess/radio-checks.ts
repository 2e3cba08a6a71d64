import { BANDS, sheetFor, type Band } from '../hardware';
import {
  bandSetting,
  LEAST_POWER,
  radioSetting,
  type Operation,
  type RadioEntry,
  type RadioSetting,
  type RosterDevice,
} from '../intent';
import { CLIENT_DBM, type Width } from '../radio';
import { allowedBlocks, channelWords, COUNTRIES } from '../regulation';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding, Mend } from './finding';

/** Signal in dBm at which others wait for a sender (IEEE 802.11-2020 §17.3.10.6). */
const WAITS = -82;
/** Channels of 20 MHz at 2.4 GHz that can be used side by side; the second for OFDM alone. */
const SIDE_BY_SIDE: readonly (readonly number[])[] = [
  [1, 6, 11],
  [1, 5, 9, 13],
];
/** EIRP of a client in dBm, and how much softer than it an AP may be before clients at the edge are heard and do not hear. */
const SOFTER = 8;
/** Tags of sites around which radar is usual. */
const BY_THE_SEA: ReadonlySet<string> = new Set(['vessel', 'ship', 'boat', 'ferry', 'pier', 'quay', 'harbour', 'port']);

interface Radio {
  readonly device: RosterDevice;
  readonly band: Band;
  readonly setting: RadioSetting;
}

/** Radios of a context, worked out once for all checks. */
const radios = new WeakMap<CheckContext, readonly Radio[]>();

/** Every radio of a site, as it is said. */
function radiosOf(context: CheckContext): readonly Radio[] {
  let found = radios.get(context);
  if (!found) {
    const { site, roster } = context;
    found = roster.flatMap((device) =>
      sheetFor(device).radios.map(({ band }) => ({ device, band, setting: radioSetting(site, device, band) })),
    );
    radios.set(context, found);
  }
  return found;
}

function finding(
  context: CheckContext,
  { device, band }: Pick<Radio, 'device' | 'band'>,
  say: Pick<Finding, 'code' | 'severity' | 'message' | 'reason' | 'mend'>,
): Finding {
  const place = { siteId: context.site.id, kind: 'radio' as const, id: device.id, port: band };
  return { key: `${say.code} ${device.id} ${band}`, place, ...say };
}

/** Changes what is said of a radio alone. */
function mend(
  { site }: CheckContext,
  { device, band }: Pick<Radio, 'device' | 'band'>,
  change: RadioEntry,
  label: string,
): Mend {
  const from = site.radios?.[device.id]?.[band] ?? null;
  const operation: Operation = {
    type: 'radio.set',
    siteId: site.id,
    deviceId: device.id,
    band,
    from,
    to: { ...from, ...change },
  };
  return { label, operations: [operation] };
}

/** A channel, or a power, that the law of the site's country does not allow: what a copy or other rules brought. */
export const notLegal: Check = (context) =>
  radiosOf(context).flatMap((radio): Finding[] => {
    const { device, band, setting } = radio;
    const { country } = context.site;
    const land = COUNTRIES.find(({ code }) => code === country)?.name ?? country;
    if (!setting.on) return [];
    if (setting.channel !== null && !setting.at) {
      const legal =
        channelWords(
          band,
          allowedBlocks(country, band, 20).map(({ centre }) => centre),
        ) || 'none';
      const reason = `At ${band} GHz ${land} allows channels ${legal}. The radio is told to send nothing.`;
      const message = `Channel ${setting.channel} of ${device.name} is not legal in ${land}`;
      const free = mend(context, radio, { channel: null }, `let ${device.name} take a channel that is`);
      return [finding(context, radio, { code: 'radio.not-legal', severity: 'error', message, reason, mend: free })];
    }
    if (setting.channel === null && setting.choices.length === 0) {
      const reason = `None of the channels that the site says for ${band} GHz may be used in ${land}, free of radar. The radio is told to send nothing.`;
      const message = `${device.name} has no channel at ${band} GHz`;
      return [finding(context, radio, { code: 'radio.no-channel', severity: 'error', message, reason, mend: null })];
    }
    if (setting.power !== null && setting.mostEirp !== null && setting.power > setting.mostEirp) {
      const reason = `It is told ${setting.mostEirp} dBm, the most that law, site and hardware allow there.`;
      const message = `${device.name} is said to send with ${setting.power} dBm at ${band} GHz`;
      const less = mend(context, radio, { power: setting.mostEirp }, `say ${setting.mostEirp} dBm`);
      return [finding(context, radio, { code: 'radio.power', severity: 'warning', message, reason, mend: less })];
    }
    const { least } = bandSetting(context.site, band);
    const soft = CLIENT_DBM - SOFTER;
    if (setting.power !== null && setting.power < soft) {
      const up = Math.min(Math.max(least, soft), setting.mostEirp ?? soft);
      const reason = `Clients answer with some ${CLIENT_DBM} dBm: at the edge they are heard and do not hear it.`;
      const message = `${device.name} sends softer at ${band} GHz than clients answer`;
      const louder =
        up > setting.power && up >= LEAST_POWER ? mend(context, radio, { power: up }, `say ${up} dBm`) : null;
      return [finding(context, radio, { code: 'radio.soft', severity: 'info', message, reason, mend: louder })];
    }
    return [];
  });

/** 40 MHz at 2.4 GHz where other networks are. */
export const wideAmongOthers: Check = (context) => {
  const near = nearAt(context, '2.4');
  return radiosOf(context).flatMap((radio): Finding[] => {
    const { device, band, setting } = radio;
    const width = setting.at?.width ?? setting.choices[0]?.width ?? setting.width;
    if (band !== '2.4' || !setting.on || width < 40) return [];
    const heard = (context.air?.strangers ?? []).filter(
      (each) =>
        each.band === '2.4' && each.heardBy.some(({ deviceId, signal }) => deviceId === device.id && signal >= WAITS),
    );
    const ours = near.get(device.id)?.size ?? 0;
    if (heard.length + ours === 0) return [];
    const reason = `It hears ${heard.length} networks of strangers and ${ours} APs of ours there. Of 40 MHz only one fits into the band: all of them wait for each other.`;
    return [
      finding(context, radio, {
        code: 'radio.wide',
        severity: 'warning',
        message: `${device.name} takes 40 MHz at 2.4 GHz among others`,
        reason,
        mend: mend(context, radio, { width: 20 }, `20 MHz at ${device.name}`),
      }),
    ];
  });
};

/** Radios at 2.4 GHz on channels that overlap. */
export const overlapping: Check = (context) => {
  const said = radiosOf(context).filter(
    ({ band, setting }) => band === '2.4' && setting.on && setting.at?.width === 20,
  );
  const channels = new Set(said.map(({ setting }) => setting.at!.channel));
  if (SIDE_BY_SIDE.some((plan) => [...channels].every((channel) => plan.includes(channel)))) return [];
  const [usual] = SIDE_BY_SIDE as readonly [readonly number[]];
  return said
    .filter(({ setting }) => !usual.includes(setting.at!.channel))
    .map((radio) => {
      const { channel } = radio.setting.at!;
      const nearest = usual.reduce((a, b) => (Math.abs(b - channel) < Math.abs(a - channel) ? b : a));
      return finding(context, radio, {
        code: 'radio.overlap',
        severity: 'warning',
        message: `Channel ${channel} of ${radio.device.name} lies across others`,
        reason: `Of 2.4 GHz 1, 6 and 11 fit side by side, or 1, 5, 9 and 13. What lies across is heard as noise, and not waited for.`,
        mend: mend(context, radio, { channel: nearest }, `channel ${nearest} for ${radio.device.name}`),
      });
    });
};

/** APs that all hear each other, said to send on one and the same channel while others are free. */
export const allOnOne: Check = (context) =>
  BANDS.flatMap((band): Finding[] => {
    const said = radiosOf(context).filter((radio) => radio.band === band && radio.setting.on && radio.setting.at);
    const near = nearAt(context, band);
    const byBlock = new Map<string, Radio[]>();
    for (const radio of said) {
      const { block, width } = radio.setting.at!;
      const key = `${width} ${block.centre}`;
      byBlock.set(key, [...(byBlock.get(key) ?? []), radio]);
    }
    return [...byBlock.values()].flatMap((on): Finding[] => {
      const group = on.filter(({ device }) => {
        const heard = near.get(device.id);
        return heard !== undefined && on.every((other) => other.device === device || heard.has(other.device.id));
      });
      const { channel, width } = (group[0] ?? on[0]!).setting.at!;
      // Where there are more radios than channels, some have to share: that alone is no fault.
      const part = Math.ceil(said.length / Math.max(1, sideBySide(context, band, width)));
      if (group.length < 3 || group.length <= part) return [];
      const names = group.map(({ device }) => device.name);
      return [
        finding(context, group[0]!, {
          code: 'radio.all-on-one',
          severity: 'warning',
          message: `${names.length} APs that hear each other share channel ${channel}`,
          reason: `${names.slice(0, 5).join(', ')}${names.length > 5 ? ' …' : ''} wait for each other on ${channel} at ${width} MHz. Work out a plan under Wireless.`,
          mend: null,
        }),
      ];
    });
  });

/** Channels shared with radar where radar is usual. */
export const radarBySea: Check = (context) => {
  const tag = (context.tags ?? []).find((each) => BY_THE_SEA.has(each.toLowerCase()));
  if (tag === undefined) return [];
  return radiosOf(context).flatMap((radio): Finding[] => {
    const { device, setting } = radio;
    if (!setting.on || !setting.at?.block.duty.radar) return [];
    const elsewhere = setting.refuge ? ` ${setting.refuge.channel} is where it would go.` : '';
    return [
      finding(context, radio, {
        code: 'radio.radar-by-sea',
        severity: 'warning',
        message: `${device.name} uses a channel shared with radar on a ${tag}`,
        reason: `Ships’ and harbours’ radar will have it leave channel ${setting.at.channel} again and again, its clients with it.${elsewhere}`,
        mend: setting.refuge
          ? mend(
              context,
              radio,
              { channel: setting.refuge.channel },
              `channel ${setting.refuge.channel} for ${device.name}`,
            )
          : null,
      }),
    ];
  });
};

/** A radio that is off though SSIDs need its band. */
export const offRadios: Check = (context) =>
  radiosOf(context).flatMap((radio): Finding[] => {
    const { device, band, setting } = radio;
    const sent = context.site.ssids.filter(({ bands }) => bands.includes(band));
    if (!setting.on && sent.length > 0) {
      const mine = radiosOf(context).filter((each) => each.device === device && each.setting.on);
      const others = new Set(mine.map((each) => each.band));
      const lost = sent.filter(({ bands }) => !bands.some((each) => others.has(each)));
      const [first] = lost.length > 0 ? lost : sent;
      const own = setting.own.includes('on');
      return [
        finding(context, radio, {
          code: 'radio.off',
          severity: lost.length > 0 ? 'error' : 'warning',
          message: `The ${band} GHz radio of ${device.name} is off, and ${first!.name} needs its band`,
          reason:
            lost.length > 0
              ? `${device.name} sends ${lost.map(({ name }) => `“${name}”`).join(', ')} on no band at all.`
              : `It is sent there on its other bands alone.`,
          mend: own ? mend(context, radio, { on: true }, `switch it on`) : null,
        }),
      ];
    }
    return [];
  });

/** Radios for 6 GHz that no SSID uses: said once for all of them. */
export const unusedRadios: Check = (context) => {
  const { ssids } = context.site;
  if (ssids.length === 0 || ssids.some(({ bands }) => bands.includes('6'))) return [];
  const there = radiosOf(context).filter(({ band, setting }) => band === '6' && setting.on && setting.eirp !== null);
  const [first, ...more] = there;
  if (!first) return [];
  const whose = more.length === 0 ? `radio of ${first.device.name}` : `radios of ${there.length} APs`;
  return [
    finding(context, first, {
      code: 'radio.unused',
      severity: 'info',
      message: `Nobody uses the 6 GHz ${whose}`,
      reason: 'No SSID that reaches this site is sent at 6 GHz.',
      mend: null,
    }),
  ];
};

/** A stranger's radio that sends a name of ours. */
export const lookalikes: Check = (context) =>
  (context.air?.strangers ?? []).flatMap(({ bssid, ssid, band, channel, heardBy }): Finding[] => {
    const ours = context.site.ssids.find(({ name }) => name.toLowerCase() === ssid.toLowerCase());
    if (!ours) return [];
    const hearers = heardBy.slice(0, 4).map(({ deviceId, signal }) => `${nameIn(context, deviceId)} (${signal} dBm)`);
    return [
      {
        key: `radio.lookalike ${bssid}`,
        code: 'radio.lookalike',
        severity: 'warning',
        message: `“${ssid}” is also sent by a radio that is not ours`,
        reason: `${bssid} on channel ${channel} at ${band} GHz, heard by ${hearers.join(', ')}. Look for it where it is loudest.`,
        place: { siteId: context.site.id, kind: 'ssid', id: ours.id },
        mend: null,
      },
    ];
  });

/** How many channels so wide the site lets its radios use side by side. */
function sideBySide({ site }: CheckContext, band: Band, width: Width): number {
  const { channels, radar } = bandSetting(site, band);
  const open = allowedBlocks(site.country, band, width).filter(
    ({ members, duty, shortRange }) =>
      (radar || !duty.radar) && (channels === 'legal' ? !shortRange : members.some((each) => channels.includes(each))),
  );
  let [count, end] = [0, -Infinity];
  for (const { centreMhz } of open) {
    if (centreMhz - width / 2 < end) continue;
    count++;
    end = centreMhz + width / 2;
  }
  return count;
}

/** APs that hear each other at a band so well that they wait for each other, by their ids. */
function nearAt(context: CheckContext, band: Band): ReadonlyMap<string, ReadonlySet<string>> {
  const most = Math.max(LEAST_POWER, ...allowedBlocks(context.site.country, band, 20).map(({ eirp }) => eirp));
  const powers = new Map(
    radiosOf(context).flatMap((radio) =>
      radio.band === band ? [[radio.device.id, radio.setting.eirp ?? most] as const] : [],
    ),
  );
  const found = new Map<string, Set<string>>();
  const add = (from: string, to: string): void => {
    const set = found.get(from);
    if (set) set.add(to);
    else found.set(from, new Set([to]));
  };
  for (const { band: of, a, b, loss } of context.air?.near ?? []) {
    const [mine, theirs] = [powers.get(a), powers.get(b)];
    if (of !== band || mine === undefined || theirs === undefined || Math.max(mine, theirs) - loss < WAITS) continue;
    add(a, b);
    add(b, a);
  }
  return found;
}

export const RADIO_CHECKS: readonly Check[] = [
  notLegal,
  wideAmongOthers,
  overlapping,
  allOnOne,
  radarBySea,
  offRadios,
  unusedRadios,
  lookalikes,
];
