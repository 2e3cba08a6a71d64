import {
  USUAL_SERVER,
  type Operation,
  type RadiusFields,
  type RadiusServer,
  type SharedReach,
} from '@iron-lattice/core/intent';
import type { MacFormat } from '@iron-lattice/core/radius';
import type { EditForm } from '../shell/edit-form';

/** A RADIUS server as it is typed. */
export interface ServerText {
  readonly name: string;
  /** Whether it is this controller. */
  readonly own: boolean;
  readonly address: string;
  readonly port: string;
  /** Empty: it is not told of sessions. */
  readonly accounting: string;
  /** Empty: the one that is kept. */
  readonly secret: string;
  readonly order: number;
  readonly timeout: string;
  readonly tries: string;
  readonly dead: string;
  readonly macs: MacFormat | null;
  readonly source: RadiusServer['source'];
  readonly unsigned: boolean;
  /** Certificates as PEM. */
  readonly authority: string;
  readonly certificateName: string;
  readonly reach: SharedReach;
  readonly purpose: string;
}

/** @param reach of a new one. @param secret proposed for a new one. @param own whether a new one is this controller. */
export function serverTextOf(each: RadiusServer | null, reach: SharedReach, secret: string, own: boolean): ServerText {
  const { port, accounting, timeout, tries, dead, ...rest } = each ?? {
    ...USUAL_SERVER,
    ...{ name: own ? 'This controller' : '', own, address: '', unsigned: false, reach, purpose: '' },
    ...{ authority: '', certificateName: '' },
  };
  return {
    ...{
      name: rest.name,
      own: rest.own === true,
      address: rest.address,
      order: rest.order,
      macs: rest.macs,
      source: rest.source,
    },
    port: String(port),
    accounting: accounting ? String(accounting) : '',
    ...{ timeout: String(timeout), tries: String(tries), dead: String(dead) },
    ...{ unsigned: rest.unsigned === true, reach: rest.reach, purpose: rest.purpose ?? '' },
    ...{ authority: rest.authority ?? '', certificateName: rest.certificateName ?? '' },
    secret: each ? '' : secret,
  };
}

/** What is no number is refused where numbers are judged, with words that say what is. */
const number = (text: string): number => (/^\d{1,6}$/.test(text.trim()) ? Number(text) : -1);

const fieldsOf = (text: ServerText): Omit<RadiusFields, 'secret'> => ({
  ...(text.own ? { own: true } : {}),
  ...{ name: text.name, address: text.address, port: number(text.port), order: text.order },
  accounting: text.accounting.trim() === '' ? null : number(text.accounting),
  ...{ timeout: number(text.timeout), tries: number(text.tries), dead: number(text.dead) },
  ...{ macs: text.macs, source: text.source, unsigned: text.unsigned || null },
  ...{ reach: text.reach, purpose: text.purpose.trim() || null },
  ...(text.own
    ? {}
    : { authority: text.authority.trim() || null, certificateName: text.certificateName.trim() || null }),
});

/** The edit that what was typed comes to, with a new secret beside it. */
export function serverEdit(
  kept: RadiusServer | null,
  form: EditForm<RadiusServer, ServerText>,
): { readonly operation: Operation; readonly secrets: Readonly<Record<string, string>>; readonly id: string } {
  const text = form.text();
  const [id, secret] = [kept?.id ?? crypto.randomUUID(), crypto.randomUUID()];
  const secrets = text.secret === '' ? {} : { [secret]: text.secret };
  if (!kept)
    return { operation: { type: 'radius.add', radius: { id, ...fieldsOf(text), secret: { secret } } }, secrets, id };
  const { from, to } = form.change<Omit<RadiusFields, 'secret'>>(fieldsOf(text), (each) => each);
  const own = text.secret === '' ? [{}, {}] : [{ secret: kept.secret }, { secret: { secret } }];
  return {
    operation: { type: 'radius.set', radiusId: id, from: { ...from, ...own[0] }, to: { ...to, ...own[1] } },
    secrets,
    id,
  };
}
