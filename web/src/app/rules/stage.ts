import { byId, type Stage } from '../shell/stage';

const page: Stage['page'] = () => import('./rules-page').then((m) => m.RulesPage);
/** How `show` names what is no rule. */
const named = {
  set: ({ id }: { readonly id: string }) => `set:${id}`,
  guarantee: ({ id }: { readonly id: string }) => `guarantee:${id}`,
};

export const rules: readonly Stage[] = [
  {
    at: 'site',
    path: 'rules',
    name: 'Rules',
    page,
    hits: { rule: byId, ...named },
    findings: { rule: byId, guarantee: named.guarantee },
  },
  {
    at: 'estate',
    path: 'rules',
    name: 'Rules',
    title: 'Rules, sets and guarantees of all sites',
    page,
    hits: { rule: byId, ...named },
    shows: 'shared',
  },
];
