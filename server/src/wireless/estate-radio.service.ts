import { setImmediate } from 'node:timers/promises';
import { sheetFor, type Band } from '@iron-lattice/core/hardware';
import { bandSetting, radioSetting, type SitePart } from '@iron-lattice/core/intent';
import type { RadioReport } from '@iron-lattice/core/line';
import { allowedBlocks, allowedWidths } from '@iron-lattice/core/regulation';
import type { EstateRadio } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';

/** Devices after which others get their turn. */
const AT_ONCE = 200;

interface Fact {
  readonly id: string;
  readonly radios: readonly RadioReport[] | null;
  readonly clients: Readonly<Partial<Record<Band, number>>> | null;
}

/** Every radio of the estate. */
export class EstateRadioService {
  constructor(
    private readonly database: Sequelize,
    private readonly drafts: DraftService,
  ) {}

  /** All radios as a draft has them, by the names of sites and devices, with what each does. */
  async list(draftId: string): Promise<EstateRadio[]> {
    const [{ intent, roster }, facts] = await Promise.all([this.drafts.open(draftId), this.facts()]);
    const byId = new Map(facts.map((fact) => [fact.id, fact]));
    const rows: EstateRadio[] = [];
    // Sites of one country whose bands say the same may do the same.
    const known = new Map<string, Pick<EstateRadio['may'], 'channels' | 'widths'>>();
    const mayOf = ({ country, bands }: SitePart, band: Band) => {
      const { radar } = bandSetting(bands ? { bands } : {}, band);
      const key = `${country} ${band} ${radar}`;
      let may = known.get(key);
      if (!may) {
        const legal = allowedBlocks(country, band, 20).filter(({ duty }) => radar || !duty.radar);
        may = { channels: legal.map(({ centre }) => centre), widths: allowedWidths(country, band) };
        known.set(key, may);
      }
      return may;
    };
    for (const [i, device] of roster.entries()) {
      if (i % AT_ONCE === AT_ONCE - 1) await setImmediate();
      const site = intent.sites.get(device.siteId);
      if (!site || device.expected) continue;
      for (const { band } of sheetFor(device).radios) {
        const { on, at, choices, eirp, mostEirp, fixed, width } = radioSetting(site, device, band);
        const fact = byId.get(device.id);
        rows.push({
          ...{ siteId: site.id, site: site.name, deviceId: device.id, name: device.name, band, on, fixed },
          ...{
            channel: at?.channel ?? null,
            width: at?.width ?? choices[0]?.width ?? width,
            power: eirp,
            said: site.radios?.[device.id]?.[band] ?? null,
            may: { ...mayOf(site, band), power: mostEirp },
          },
          fact: fact?.radios?.find((each) => each.band === band) ?? null,
          clients: fact?.clients?.[band] ?? 0,
        });
      }
    }
    return rows;
  }

  /** What devices report of their radios, and how many clients each band has, without the rest of what they report. */
  private facts(): Promise<Fact[]> {
    return this.database.query<Fact>(
      `SELECT d.id, d.report->'radios' AS radios,
         (SELECT jsonb_object_agg(band, count) FROM (
            SELECT c->>'band' AS band, count(*) FROM jsonb_array_elements(d.report->'clients') c WHERE c ? 'band' GROUP BY 1) n) AS clients
       FROM device d WHERE d.site_id IS NOT NULL AND jsonb_typeof(d.report->'radios') = 'array'`,
      { type: QueryTypes.SELECT },
    );
  }
}
