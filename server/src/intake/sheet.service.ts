import { HARDWARE_SHEETS, readSheet, type HardwareSheet } from '@iron-lattice/core/hardware';
import { QueryTypes, type Sequelize } from 'sequelize';
import { AppError } from '../platform/app-error';
import { note } from '../platform/journal';
import { Hitch } from './hitch.model';
import type { HitchService } from './hitch.service';

/** Hardware sheets that people supplied for models we ship none of. Devices of those are taken in as generic. */
export class SheetService {
  constructor(
    private readonly database: Sequelize,
    private readonly hitches: HitchService,
  ) {}

  /** All sheets, shipped and supplied. */
  async list(): Promise<{ sheet: HardwareSheet; supplied: boolean }[]> {
    const rows = await this.database.query<{ body: HardwareSheet }>('SELECT body FROM hardware_sheet ORDER BY model', {
      type: QueryTypes.SELECT,
    });
    return [
      ...HARDWARE_SHEETS.map((sheet) => ({ sheet, supplied: false })),
      ...rows.map(({ body }) => ({ sheet: body, supplied: true })),
    ];
  }

  async find(model: string): Promise<HardwareSheet | null> {
    const rows = await this.database.query<{ body: HardwareSheet }>(
      'SELECT body FROM hardware_sheet WHERE model = :model',
      {
        replacements: { model },
        type: QueryTypes.SELECT,
      },
    );
    return rows[0]?.body ?? null;
  }

  /** Takes a sheet in; devices of its model are let in when they call next. @throws AppError `sheet.refused`. */
  async supply(value: unknown, personId: string): Promise<HardwareSheet> {
    const read = readSheet(value);
    if (!read.ok) throw new AppError('sheet.refused', read.flaws[0]!.message, read.flaws);
    const { sheet } = read;
    await this.database.query(
      `INSERT INTO hardware_sheet (model, body, person_id) VALUES (:model, :body, :personId)
       ON CONFLICT (model) DO UPDATE SET body = :body, person_id = :personId, at = now()`,
      { replacements: { model: sheet.model, body: JSON.stringify(sheet), personId } },
    );
    await note(this.database, personId, 'sheet.supply', { model: sheet.model });
    const waiting = await Hitch.findAll({ where: { code: 'model', settledAt: null, 'detail.model': sheet.model } });
    for (const { serial } of waiting) await this.hitches.settle('model', serial);
    return sheet;
  }
}
