import { Joi } from '../schema';
import { flaw, type Flaw } from '../base';
import type { HardwareSheet } from './hardware-sheet';
import { sheetOf } from './sheets';

const name = Joi.string().pattern(/^[0-9a-z]{1,12}$/);
const port = Joi.object({
  name: name.required(),
  role: Joi.valid('edge', 'trunk', 'wan').required(),
  speed: Joi.number().integer().min(10).max(800_000).required(),
  poe: Joi.number().min(1).max(100),
  either: Joi.valid(true),
  modem: Joi.valid(true),
});
const radio = Joi.object({
  band: Joi.valid('2.4', '5', '6').required(),
  streams: Joi.number().integer().min(1).max(16).required(),
  width: Joi.valid(20, 40, 80, 160, 320).required(),
  eirp: Joi.number().min(1).max(36),
  phy: Joi.valid('HT', 'VHT', 'HE', 'EHT'),
});
const schema = Joi.object({
  format: Joi.valid('iron-lattice.hardware/1').required(),
  model: Joi.string()
    .pattern(/^[0-9A-Za-z][0-9A-Za-z .+-]{1,39}$/)
    .required(),
  title: Joi.string().trim().min(1).max(60).required(),
  kind: Joi.valid('gateway', 'switch', 'ap').required(),
  ports: Joi.array().items(port).min(1).max(128).unique('name').required(),
  radios: Joi.array().items(radio).max(4).unique('band').required(),
  ssidsPerRadio: Joi.number().integer().min(0).max(32).required(),
  vlans: Joi.number().integer().min(1).max(4094),
  routes: Joi.number().integer().min(1).max(4094),
  pooled: Joi.number().integer().min(1).max(4094),
  knownClients: Joi.number().integer().min(0).max(1_000_000),
  groups: Joi.number().integer().min(0).max(128),
  rules: Joi.number().integer().min(0).max(1_000_000),
  poeBudget: Joi.number().min(1).max(10_000),
});

/**
 * Checks a hardware sheet that somebody supplied for a model we ship none of.
 * @returns the sheet, or what is wrong with it.
 */
export function readSheet(
  value: unknown,
): { readonly ok: true; readonly sheet: HardwareSheet } | { readonly ok: false; readonly flaws: readonly Flaw[] } {
  const { error } = schema.validate(value, { abortEarly: false });
  if (error)
    return {
      ok: false,
      flaws: error.details.map((each) =>
        flaw('sheet.malformed', `The hardware sheet is not as it should be: ${each.message.replaceAll('"', '')}.`),
      ),
    };
  const sheet = value as HardwareSheet;
  const flaws: Flaw[] = [];
  if (sheetOf(sheet.model)) flaws.push(flaw('sheet.shipped', `The sheet of ${sheet.model} ships with the product.`));
  if (sheet.kind === 'gateway' && !sheet.ports.some((each) => each.role === 'wan'))
    flaws.push(flaw('sheet.no-wan', 'A gateway needs a port of role wan.'));
  if (sheet.kind === 'ap' && (sheet.radios.length === 0 || sheet.ssidsPerRadio === 0))
    flaws.push(flaw('sheet.no-radio', 'An access point needs a radio that sends at least one SSID.'));
  return flaws.length > 0 ? { ok: false, flaws } : { ok: true, sheet };
}
