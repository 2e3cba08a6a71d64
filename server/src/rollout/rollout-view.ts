import {
  whatStopDoes,
  type RolloutStepView,
  type RolloutView,
  type StepState,
  type WaveState,
  type WaveView,
} from '@iron-lattice/core/rollout';
import { QueryTypes, type Sequelize } from 'sequelize';
import { Site } from '../intent/intent.model';
import { Device } from '../roster/device.model';
import { Person } from '../session/person.model';
import { planOf, Rollout, RolloutSite, RolloutStep } from './rollout.model';

/** Devices of a rollout that are shown one by one, and names of sites of a wave. */
const [MOST_STEPS, MOST_NAMES] = [400, 6];

type Counted = Pick<RolloutStep, 'rolloutId' | 'wave' | 'siteId' | 'state'>;

/** A rollout as people see it, with what became of each device. */
export async function viewOf(rollout: Rollout): Promise<RolloutView> {
  const [view] = await listed([rollout]);
  const rolloutId = rollout.id;
  const failed = await RolloutStep.findAll({ where: { rolloutId, state: 'failed' }, limit: MOST_STEPS });
  const first = await RolloutStep.findAll({ where: { rolloutId }, order: ['position'], limit: MOST_STEPS });
  const steps = [...failed, ...first.filter(({ state }) => state !== 'failed')];
  const devices = await Device.findAll({
    where: { id: steps.map((step) => step.deviceId) },
    attributes: ['id', 'name'],
  });
  const [names, sites] = [new Map(devices.map(({ id, name }) => [id, name])), await siteNames()];
  return {
    ...view!,
    steps: steps.map(({ deviceId, siteId, wave, state, reason, added, removed }): RolloutStepView => {
      const name = names.get(deviceId) ?? '';
      const at = siteId ?? '';
      return { deviceId, siteId: at, siteName: sites.get(at) ?? '', wave, name, state, reason, added, removed };
    }),
  };
}

/** Rollouts with their waves, without their devices. */
export async function listed(rollouts: readonly Rollout[]): Promise<RolloutView[]> {
  const ids = rollouts.map(({ id }) => id);
  const steps: Counted[] = await RolloutStep.findAll({
    attributes: ['rolloutId', 'wave', 'siteId', 'state'],
    where: { rolloutId: ids },
    order: ['position'],
    raw: true,
  });
  const mine = new Map<string, Counted[]>(ids.map((id) => [id, []]));
  for (const step of steps) mine.get(step.rolloutId)!.push(step);
  const people = await namesOf(rollouts.map(({ personId }) => personId));
  const sites = rollouts.length > 0 ? await siteNames() : new Map<string, string>();
  const views: RolloutView[] = [];
  for (const rollout of rollouts) {
    const { id, draftName, state, revision, reason, resumed, startedAt, endedAt, restUntil, asked, wave } = rollout;
    const own = mine.get(id)!;
    const counted = own.map((step) => ({ siteId: step.siteId ?? '', state: step.state }));
    const over = endedAt !== null;
    views.push({
      ...{ id, draftName, state, revision, reason, resumed, wave, asked, plan: planOf(rollout), steps: [] },
      startedBy: people.get(rollout.personId) ?? '',
      startedAt: startedAt.toISOString(),
      endedAt: endedAt?.toISOString() ?? null,
      restUntil: restUntil?.toISOString() ?? null,
      waves: await wavesIn(rollout, own, sites),
      would: over ? null : { stop: whatStopDoes(counted, 'stop'), back: whatStopDoes(counted, 'back') },
      devices: own.length,
    });
  }
  return views;
}

async function wavesIn(
  rollout: Rollout,
  steps: readonly Counted[],
  names: ReadonlyMap<string, string>,
): Promise<WaveView[]> {
  const all = rollout.waves.length > 0 ? rollout.waves : ['All'];
  const clients = rollout.endedAt === null ? await clientsOf(rollout) : new Map<number, WaveView['clients']>();
  return all.map((name, number): WaveView => {
    const own = steps.filter(({ wave }) => wave === number);
    const counts: Partial<Record<StepState, number>> = {};
    for (const { state } of own) counts[state] = (counts[state] ?? 0) + 1;
    const ids = [...new Set(own.map(({ siteId }) => siteId ?? ''))];
    return {
      name,
      devices: own.length,
      silent: counts.later ?? 0,
      sites: ids.length,
      siteNames: ids.slice(0, MOST_NAMES).map((id) => names.get(id) ?? ''),
      state: stateOf(counts, own.length),
      counts,
      clients: clients.get(number) ?? null,
    };
  });
}

function stateOf(counts: Partial<Record<StepState, number>>, of: number): WaveState {
  const count = (...states: StepState[]): number => states.reduce((sum, state) => sum + (counts[state] ?? 0), 0);
  if (count('kept', 'later') === of) return 'through';
  if (count('waiting') === of) return 'waiting';
  if (count('not-told') === of) return 'not-told';
  return count('put-back') > 0 ? 'put-back' : 'telling';
}

/** Clients at the sites of waves: those counted before each began, and now. */
async function clientsOf({ id: rolloutId }: Rollout): Promise<ReadonlyMap<number, WaveView['clients']>> {
  const rows = await (RolloutSite.sequelize as Sequelize).query<{ wave: number; before: number; now: number }>(
    `SELECT t.wave, sum(t.clients)::int AS before, coalesce(sum(d.now), 0)::int AS now FROM rollout_site t
     LEFT JOIN (SELECT site_id, sum(jsonb_array_length(report->'clients')) AS now FROM device
       WHERE online AND report IS NOT NULL AND site_id IN (SELECT site_id FROM rollout_site WHERE rollout_id = :rolloutId)
       GROUP BY 1) d ON d.site_id = t.site_id
     WHERE t.rollout_id = :rolloutId AND t.clients IS NOT NULL GROUP BY 1`,
    { replacements: { rolloutId }, type: QueryTypes.SELECT },
  );
  return new Map(rows.map(({ wave, before, now }) => [wave, { before, now }]));
}

const siteNames = async (): Promise<ReadonlyMap<string, string>> =>
  new Map((await Site.findAll({ attributes: ['id', 'name'] })).map(({ id, name }) => [id, name]));

/** Names of people, by their ids. */
export async function namesOf(personIds: readonly string[]): Promise<Map<string, string>> {
  const people = await Person.findAll({ where: { id: [...new Set(personIds)] } });
  return new Map(people.map((person) => [person.id, person.name]));
}
