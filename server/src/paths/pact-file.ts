import { isUnanswered, parseIp } from '@iron-lattice/core/address';
import type { GatewayDocument, PactDocument } from '@iron-lattice/core/document';
import { pactSheetOf, swanctlOf, type SwanctlSide } from '@iron-lattice/core/formats';
import { resolve } from '@iron-lattice/core/intent';
import { compileSite } from '@iron-lattice/core/rollout';
import type { Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import type { SecretService } from '../intent/secret.service';
import { AppError, unknown } from '../platform/app-error';
import { note } from '../platform/journal';
import { rosterDeviceOf } from '../roster/device.model';
import type { RosterService } from '../roster/roster.service';

/** What is written of a tunnel to a gateway of others: a sheet for its people to read, or a file for swanctl. */
export const PACT_FILES = ['sheet', 'swanctl'] as const;
export type PactFileKind = (typeof PACT_FILES)[number];

/** Writes what the people of another gateway have to put in. */
export class PactFile {
  constructor(
    private readonly database: Sequelize,
    private readonly drafts: Pick<DraftService, 'open'>,
    private readonly rosters: Pick<RosterService, 'devices'>,
    private readonly secrets: Pick<SecretService, 'reveal'>,
  ) {}

  /**
   * What the other end of a tunnel has to be told, as a draft has it.
   * @param how.withKey whether the key is in it, which is noted. @throws AppError where nobody keeps such a tunnel.
   */
  async write(
    { draftId, siteId, pactId }: { readonly draftId: string; readonly siteId: string; readonly pactId: string },
    { kind, withKey }: { readonly kind: PactFileKind; readonly withKey: boolean },
    personId: string,
  ): Promise<{ readonly name: string; readonly text: string }> {
    const [{ intent }, devices] = await Promise.all([this.drafts.open(draftId), this.rosters.devices(siteId)]);
    const site = intent.sites.get(siteId);
    const pact = site?.pacts?.find(({ id }) => id === pactId);
    if (!site || !pact) throw unknown('tunnel');
    const documents = [...compileSite(resolve(intent.estate, site), devices.map(rosterDeviceOf)).values()];
    const keeps = documents.find(
      (each): each is GatewayDocument =>
        each.kind === 'gateway' && (each.pacts ?? []).some(({ name }) => name === pact.name),
    );
    const told = keeps?.pacts?.find(({ name }) => name === pact.name);
    if (!keeps || !told)
      throw new AppError('thing.unknown', `No gateway at ${site.name} keeps “${pact.name}”: see what is found of it.`);
    const key = withKey ? await this.secrets.reveal(told.key.secret) : undefined;
    if (withKey)
      await note(this.database, personId, 'secret.reveal', { id: told.key.secret, pact: pact.name, site: site.name });
    const side = otherSide(told, keeps, key);
    const base =
      pact.name
        .replace(/[^a-z0-9]+/gi, '-')
        .replace(/^-+|-+$/g, '')
        .toLowerCase() || 'tunnel';
    return kind === 'swanctl'
      ? { name: `${base}-other-side.conf`, text: swanctlOf(`the other end of ${pact.name}`, [side]) }
      : { name: `${base}-other-side.txt`, text: pactSheetOf(side, `the people of ${pact.other}`) };
  }
}

/** What ours is told, with both sides changed over. */
function otherSide(
  { at: _called, own, other, here, there, key: _reference, mtu: _mtu, ...both }: PactDocument,
  { uplinks }: GatewayDocument,
  key: string | undefined,
): SwanctlSide {
  const found = uplinks
    .map(({ fixed }) => fixed?.address.split('/')[0])
    .find((text) => {
      const ip = text === undefined ? null : parseIp(text);
      return ip !== null && !isUnanswered(ip);
    });
  return {
    ...both,
    ...{ own: other, other: own, here: there, there: here },
    ...(found === undefined ? {} : { at: found }),
    ...(key === undefined ? {} : { key }),
  };
}

/** Its tunnels to gateways of others, as a file for swanctl; the key of each is told to the gateway alone. @throws AppError where it has none. */
export function pactsFile({ device: { name }, pacts = [] }: GatewayDocument): { name: string; text: string } {
  if (pacts.length === 0) throw new AppError('thing.unknown', `${name} keeps no tunnel to a gateway of others.`);
  const sides = pacts.map(({ key: _key, mtu: _mtu, ...side }): SwanctlSide => side);
  return { name: `${name}-others.conf`, text: swanctlOf(name, sides) };
}
