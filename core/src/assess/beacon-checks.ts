import type { Band } from '../hardware';
import { bandSetting, sends, type Operation } from '../intent';
import { basicRatesAt, type BasicRate } from '../radio';
import { beaconLoads, heaviest, sendingOf, TOO_MUCH_BEACON } from './beacon-load';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding, Mend } from './finding';

/** The fastest that a mend makes the slowest rate: at 12 Mb/s a cell is as large as it is for data. */
const FASTEST_MEND: BasicRate = 12;

const percent = (share: number): string => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;

/** Beacons that take a tenth of the air and more. */
export const tooManyBeacons: Check = (context) => {
  const sent = sendingOf(context.site.ssids);
  const near = context.air?.near ?? [];
  const loads = beaconLoads(context.site, context.roster, sent, near);
  return heaviest(loads).flatMap((load): Finding[] => {
    const { band, deviceId, share, own, heard } = load;
    if (share < TOO_MUCH_BEACON) return [];
    const { slowest } = bandSetting(context.site, band);
    // What is weighed is of this band alone.
    const here = sent.filter(({ bands }) => bands.includes(band)).map((each) => ({ ...each, bands: [band] }));
    const with_ = (rate: BasicRate): number => {
      const all = beaconLoads(context.site, context.roster, here, near, { [band]: rate });
      return heaviest(all).find((each) => each.band === band)?.share ?? 0;
    };
    const rates = basicRatesAt(band).filter((rate) => rate > slowest && rate <= FASTEST_MEND);
    const enough = rates.find((rate) => with_(rate) < TOO_MUCH_BEACON / 2) ?? rates.at(-1);
    const mine = own > 1 ? here.filter((each) => sends(each, deviceId)) : [];
    const without = mine.map((gone) => {
      const left = here.filter((each) => each !== gone);
      const all = beaconLoads(context.site, context.roster, left, near);
      return all.find((each) => each.band === band && each.deviceId === deviceId)?.share ?? 0;
    });
    const fewer = own > 1 ? ` One SSID less would leave ${percent(Math.min(...without))}.` : '';
    const faster = enough === undefined ? '' : ` At ${enough} Mb/s they would take ${percent(with_(enough))}.`;
    return [
      {
        key: `radio.beacons ${band}`,
        code: 'radio.beacons',
        severity: 'warning',
        message: `Beacons take ${percent(share)} of the air at ${band} GHz around ${nameIn(context, deviceId)}`,
        reason: `${heard} networks of ours are heard there, ${own} of them its own, each ten times a second at ${slowest} Mb/s.${faster}${fewer}`,
        place: { siteId: context.site.id, kind: 'radio', id: deviceId, port: band },
        mend: enough === undefined ? null : mendOf(context, band, enough),
      },
    ];
  });
};

function mendOf({ site }: CheckContext, band: Band, slowest: BasicRate): Mend {
  const from = site.bands?.[band] ?? null;
  const operation: Operation = { type: 'radio.band', siteId: site.id, band, from, to: { ...from, slowest } };
  return { label: `send nothing below ${slowest} Mb/s at ${band} GHz`, operations: [operation] };
}
