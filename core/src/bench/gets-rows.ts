import { reachFrom, type ReachInput } from '../assess';
import { siteInEffect } from '../rollout';
import type { PolicyBook } from '../rules';
import { whatTheyGet } from './gets';
import type { GetsRow, Whom } from './gets.contract';

/** What somebody would get at a site by a draft, and what they would reach from there. @param minute of the week. */
export function getsRows(input: ReachInput, whom: Whom, minute: number, book?: PolicyBook): GetsRow[] {
  const { site, roster } = input;
  const rows = whatTheyGet({ site, roster, documents: siteInEffect(site, roster) }, whom);
  const keys = rows.flatMap(({ reachKey }) => reachKey ?? []);
  const reached = reachFrom(input, keys, minute, book);
  return rows.map((row): GetsRow => {
    const from = row.reachKey === null ? undefined : reached.get(row.reachKey);
    return { ...row, reach: from?.reach ?? [], rules: from?.rules ?? [] };
  });
}
