import { byId, type Stage } from '../shell/stage';

export const rules: readonly Stage[] = [
  {
    at: 'site',
    path: 'rules',
    name: 'Rules',
    page: () => import('./rules-page').then((m) => m.RulesPage),
    findings: { rule: byId, guarantee: ({ id }) => `guarantee:${id}` },
  },
];
