import { byId, type Stage } from '../shell/stage';
import type { Waiting } from '../ui/station-line';

const page: Stage['page'] = () => import('./intake-page').then((m) => m.IntakePage);
const calling = (count: number): Waiting | undefined =>
  count > 0 ? { count, tone: 'info', words: `${count} calling` } : undefined;

export const intake: readonly Stage[] = [
  {
    at: 'estate',
    path: 'devices',
    name: 'Devices',
    title: 'All devices',
    page,
    hits: { device: byId },
    waiting: (store) => calling(store.estate()?.calling ?? 0),
  },
  {
    at: 'site',
    path: 'intake',
    name: 'Intake',
    page,
    add: 'Find devices',
    hits: { site: byId, device: byId },
    findings: { device: byId },
    waiting: (store) => calling(store.calling().length),
  },
];
