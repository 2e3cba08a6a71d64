import { asksPassphrase, asksWho } from '@iron-lattice/core/document';
import { changedBySite, type Operation, type Ssid, type SsidFields } from '@iron-lattice/core/intent';
import type { EditForm } from '../shell/edit-form';
import { fieldsOf, type SsidText } from './ssid-text';

/** An edit of an SSID, the secrets that go beside it, and the id of the SSID it is of. */
export interface SsidEdit {
  readonly operation: Operation;
  readonly secrets: Readonly<Record<string, string>>;
  readonly id: string;
}

/** Adds what was typed. */
export function additionOf(text: SsidText): SsidEdit {
  const [id, secret] = [crypto.randomUUID(), crypto.randomUUID()];
  const passphrase = asksPassphrase(text.security) && text.ring === null ? { secret } : null;
  const said = Object.fromEntries(Object.entries(fieldsOf(text)).filter(([, value]) => value !== null));
  const ssid = { id, ...said, passphrase } as Ssid;
  return { operation: { type: 'ssid.add', ssid }, secrets: passphrase ? { [secret]: text.passphrase } : {}, id };
}

interface Change {
  readonly from: Partial<SsidFields>;
  readonly to: Partial<SsidFields>;
}

/** An edit of APs speaks of the sites whose APs it changes: others may choose theirs meanwhile. */
function onlyChangedSites({ from, to }: Change): Change {
  const fields = (['aps', 'apTags'] as const).filter((field) => field in to);
  const changes = fields.map((field) => [field, changedBySite(from[field], to[field])] as const);
  const of = (side: 'from' | 'to'): object => Object.fromEntries(changes.map(([field, each]) => [field, each[side]]));
  return { from: { ...from, ...of('from') }, to: { ...to, ...of('to') } };
}

/** Changes what differs; a new passphrase goes beside it, and the one before stays right for as long as was typed. */
export function changeOf(ssid: Ssid, form: EditForm<Ssid, SsidText>): SsidEdit {
  const text = form.text();
  const { from, to } = onlyChangedSites(form.change<Partial<SsidFields>>(fieldsOf(text), (each) => each));
  const operation = { type: 'ssid.set', ssidId: ssid.id } as const;
  if (ssid.passphrase && asksWho(text.security)) {
    // What nobody is asked for any more is not kept: it would come back when somebody tries another kind.
    const gone = { passphrase: ssid.passphrase, former: ssid.former ?? null };
    const none = { passphrase: null, former: null };
    return {
      operation: { ...operation, from: { ...from, ...gone }, to: { ...to, ...none } },
      secrets: {},
      id: ssid.id,
    };
  }
  if (text.passphrase === '' || !asksPassphrase(text.security))
    return { operation: { ...operation, from, to }, secrets: {}, id: ssid.id };
  const secret = crypto.randomUUID();
  const until = text.until.trim();
  const former = until !== '' && ssid.passphrase ? { secret: ssid.passphrase.secret, until } : null;
  const { passphrase, security } = ssid;
  return {
    operation: {
      ...operation,
      from: { ...from, passphrase, security, former: ssid.former ?? null },
      to: { ...to, passphrase: { secret }, security: text.security, former },
    },
    secrets: { [secret]: text.passphrase },
    id: ssid.id,
  };
}
