import { flaw, spreadsheetDamage, type Flaw } from '../../base';
import { sheetFor } from '../../hardware';
import { MOST_BRANCH_DEVICES } from './branch';

/** A box as a row names it. */
export interface Box {
  readonly serial: string;
  readonly model: string;
  /** The id that it has, or will have. */
  readonly id: string;
}

/** What boxes are checked against. */
interface Known {
  readonly known: { readonly models: ReadonlySet<string> };
  /** Whom a serial number belongs to, in words. */
  readonly serials: ReadonlyMap<string, string>;
  readonly heard: ReadonlyMap<string, { readonly id: string; readonly model: string }>;
  readonly idFor: () => string;
}

/**
 * Reads the boxes of a branch: its gateway first, then those of one cell, each as its model and serial number, parted by
 * semicolons. Of one that was heard the model need not be said; a second gateway among them takes over from the first.
 */
export function readBoxes(
  values: { readonly serial: string; readonly model: string; readonly devices: string },
  known: Known,
): { readonly boxes: readonly Box[]; readonly flaws: readonly Flaw[] } {
  const flaws: Flaw[] = [];
  const boxes: Box[] = [];
  const models = new Map([...known.known.models].map((model) => [model.toLowerCase(), model]));
  const read = (serialText: string, modelText: string, field: 'serial' | 'devices'): void => {
    const serial = serialText.toUpperCase();
    const heard = known.heard.get(serial);
    const flawed = (code: string, message: string, at: string = field): number => flaws.push(flaw(code, message, at));
    if (serial === '') {
      flawed('row.serial-empty', 'Say the serial number of its gateway.');
      return;
    }
    const damage = spreadsheetDamage(serialText);
    if (damage) {
      flawed('row.spreadsheet', `${damage}. Format the column as text and paste it again.`);
      return;
    }
    if (!/^[0-9A-Z][0-9A-Z-]{3,31}$/.test(serial)) {
      flawed('row.serial', `“${serialText}” is not a serial number: 4 to 32 letters, digits and hyphens.`);
      return;
    }
    const holder = known.serials.get(serial);
    if (holder !== undefined) {
      flawed('row.serial-taken', `${serial} is already known: ${holder}.`);
      return;
    }
    if (boxes.some((box) => box.serial === serial)) {
      flawed('row.serial-twice', `${serial} is named twice.`);
      return;
    }
    const at = field === 'serial' ? 'model' : field;
    const model = modelText === '' ? heard?.model : models.get(modelText.toLowerCase());
    if (model === undefined) {
      const text =
        modelText === ''
          ? `Say the model of ${serial}: it has never called.`
          : `There is no hardware sheet for model “${modelText}”. Supply one first.`;
      flawed('row.model-unknown', text, at);
      return;
    }
    if (heard && heard.model !== model) flawed('row.model-other', `${serial} called, and is ${heard.model}.`, at);
    const kind = sheetFor({ model }).kind;
    if (field === 'serial' && kind !== 'gateway') flawed('row.no-gateway', `${model} is no gateway.`, at);
    const gateways = boxes.filter(({ model: known }) => sheetFor({ model: known }).kind === 'gateway').length;
    if (field === 'devices' && kind === 'gateway' && gateways > 1)
      flawed('row.third-gateway', `${serial} is a gateway: a branch has two at most, which are a pair.`);
    boxes.push({ serial, model, id: heard?.id ?? known.idFor() });
  };
  read(values.serial, values.model, 'serial');
  const others = values.devices.split(/[;\n]/).flatMap((each) => (each.trim() === '' ? [] : [each.trim()]));
  if (others.length > MOST_BRANCH_DEVICES)
    return {
      boxes,
      flaws: [...flaws, flaw('branch.devices', `${MOST_BRANCH_DEVICES} more boxes at most.`, 'devices')],
    };
  for (const each of others) {
    const words = each.split(/\s+/);
    read(words.at(-1)!, words.slice(0, -1).join(' '), 'devices');
  }
  return { boxes, flaws };
}
