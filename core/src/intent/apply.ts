import type { EditContext, Outcome, Renamed, RosterLookup } from './edit';
import type { Intent, Part } from './part';
import { withJoins } from './member/joins';
import { withLandings } from './ssid/landing';
import { everyNoun, nounOf, type Operation } from './registry';

const userOf: EditContext['userOf'] = (part, kind, name) => {
  for (const { naming } of everyNoun()) {
    const user = naming?.userOf(part, kind, name) ?? null;
    if (user !== null) return user;
  }
  return null;
};

/**
 * Applies one edit if its precondition holds; what has another name then is followed by whatever names it. Pure: the given
 * intent is not changed, untouched parts are shared.
 * What joined sites know of each other follows at once, and so does where their SSIDs carry clients.
 * @param roster the devices that are ours; edits of ports need their model.
 */
export function apply(intent: Intent, operation: Operation, roster: RosterLookup): Outcome<Operation> {
  const outcome = nounOf(operation).apply(intent, operation, { roster, userOf }) as Outcome<Operation>;
  if (!outcome.ok) return outcome;
  const { inverse, renamed } = outcome;
  const next = renamed ? followed(outcome.intent, renamed) : outcome.intent;
  const joined = withJoins(next, intent);
  return { ok: true, intent: withLandings(joined, intent), inverse };
}

/** An intent in which all that named something names it as it is called now: at its site, or everywhere. */
function followed(intent: Intent, renamed: Renamed): Intent {
  const follow = <P extends Part>(part: P): P =>
    everyNoun().reduce((now, { naming }) => naming?.follow(now, renamed) ?? now, part);
  const { siteId } = renamed;
  if (siteId === undefined) {
    const sites = new Map([...intent.sites].map(([id, site]) => [id, follow(site)]));
    return { ...intent, estate: follow(intent.estate), sites };
  }
  const there = <P extends Part>(part: P): P =>
    everyNoun().reduce((now, { naming }) => naming?.followThere?.(now, { ...renamed, siteId }) ?? now, part);
  const sites = new Map([...intent.sites].map(([id, site]) => [id, id === siteId ? follow(site) : there(site)]));
  return { ...intent, estate: there(intent.estate), sites };
}
