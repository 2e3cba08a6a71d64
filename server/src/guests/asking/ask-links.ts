import { timingSafeEqual } from 'node:crypto';
import type { SecretService } from '../../intent/secret.service';
import type { AskRow } from './ask-row';

/** `id.which.proof`: nobody can make one but the controller. */
const TOKEN = /^([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})\.(\d{1,2})\.([\w-]{20,100})$/;

/** Links by which whoever is asked answers: signed, each for one question and one address. */
export class AskLinks {
  constructor(private readonly secrets: Pick<SecretService, 'print'>) {}

  /** What stands in the link. @param at which of those who are asked. */
  tokenOf = ({ id, sponsors }: Pick<AskRow, 'id' | 'sponsors'>, at: number): string =>
    `${id}.${at}.${this.proofOf(id, at, sponsors[at]!)}`;

  /** The question that a link says it is of; null: it is none. */
  idIn = (token: string): string | null => TOKEN.exec(token)?.[1] ?? null;

  /** The address that a link was made for; null: nobody made it. */
  addressOf(token: string, { id, sponsors }: Pick<AskRow, 'id' | 'sponsors'>): string | null {
    const [, of, which = '', proof = ''] = TOKEN.exec(token) ?? [];
    const address = sponsors[Number(which)];
    if (of !== id || address === undefined) return null;
    const [given, right] = [Buffer.from(proof), Buffer.from(this.proofOf(id, Number(which), address))];
    return given.length === right.length && timingSafeEqual(given, right) ? address : null;
  }

  private proofOf = (id: string, at: number, address: string): string =>
    Buffer.from(this.secrets.print('guest answer', `${id} ${at} ${address.toLowerCase()}`), 'base64').toString(
      'base64url',
    );
}
