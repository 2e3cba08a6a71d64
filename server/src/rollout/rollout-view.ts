import {
  whatStopDoes,
  type CountedStep,
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
import { planOf, Rollout, RolloutStep } from './rollout.model';

/** Devices of a rollout that are shown one by one, and names of sites of a wave. */
const [MOST_STEPS, MOST_NAMES] = [400, 6];

/** A rollout as people see it, with what became of each device. */
export async function viewOf(rollout: Rollout): Promise<RolloutView> {
  const [view] = await listed([rollout]);
  const rolloutId = rollout.id;
  const failed = await RolloutStep.findAll({ where: { rolloutId, state: 'failed' }, limit: MOST_STEPS });
  const first = await RolloutStep.findAll({ where: { rolloutId }, order: ['position'], limit: MOST_STEPS });
  const steps = [...first, ...failed.filter(({ position }) => !first.some((step) => step.position === position))];
  const devices = await Device.findAll({
    where: { id: steps.map((step) => step.deviceId) },
    attributes: ['id', 'name'],
  });
  const names = new Map(devices.map(({ id, name }) => [id, name]));
  const sites = await siteNames(steps.flatMap(({ siteId }) => siteId ?? []));
  return {
    ...view!,
    steps: steps.map(({ deviceId, siteId, wave, state, reason, added, removed }): RolloutStepView => {
      const name = names.get(deviceId) ?? '';
      const at = siteId ?? '';
      return { deviceId, siteId: at, siteName: sites.get(at) ?? '', wave, name, state, reason, added, removed };
    }),
  };
}

/** Devices of a wave to which the same happened, or the sites of a wave. */
interface WaveCount {
  readonly rolloutId: string;
  readonly wave: number;
}
type StateCount = WaveCount & { readonly state: StepState; readonly count: number };
type SiteCount = WaveCount & { readonly sites: number; readonly names: readonly string[] };

/** Rollouts with their waves, without their devices: these are counted by the database, there may be many thousands. */
export async function listed(rollouts: readonly Rollout[]): Promise<RolloutView[]> {
  if (rollouts.length === 0) return [];
  const ids = rollouts.map(({ id }) => id);
  const [states, sites, people] = [
    await select<StateCount>(
      `SELECT rollout_id AS "rolloutId", wave, state, count(*)::int AS count FROM rollout_step
       WHERE rollout_id IN (:ids) GROUP BY 1, 2, 3`,
      { ids },
    ),
    await select<SiteCount>(
      `SELECT w.rollout_id AS "rolloutId", w.wave, count(*)::int AS sites,
         (array_agg(coalesce(s.name, '') ORDER BY w.first))[1:${MOST_NAMES}] AS names
       FROM (SELECT rollout_id, wave, site_id, min(position) AS first FROM rollout_step
         WHERE rollout_id IN (:ids) GROUP BY 1, 2, 3) w LEFT JOIN site s ON s.id = w.site_id GROUP BY 1, 2`,
      { ids },
    ),
    await namesOf(rollouts.map(({ personId }) => personId)),
  ];
  const views: RolloutView[] = [];
  for (const rollout of rollouts) {
    const { id, draftId, draftName, state, revision, reason, resumed, startedAt, endedAt, restUntil, asked, wave } =
      rollout;
    const mine = <T extends WaveCount>(all: readonly T[]): readonly T[] => all.filter((each) => each.rolloutId === id);
    const waves = await wavesIn(rollout, mine(states), mine(sites));
    views.push({
      ...{
        id,
        draftId,
        draftName,
        state,
        revision,
        reason,
        resumed,
        wave,
        asked,
        plan: planOf(rollout),
        waves,
        steps: [],
      },
      startedBy: people.get(rollout.personId) ?? '',
      startedAt: startedAt.toISOString(),
      endedAt: endedAt?.toISOString() ?? null,
      restUntil: restUntil?.toISOString() ?? null,
      would: endedAt === null ? await whatItWould(id) : null,
      devices: waves.reduce((sum, { devices }) => sum + devices, 0),
    });
  }
  return views;
}

async function whatItWould(id: string): Promise<RolloutView['would']> {
  const steps = await select<CountedStep>(
    `SELECT coalesce(site_id::text, '') AS "siteId", state, count(*)::int AS count FROM rollout_step
     WHERE rollout_id = :id GROUP BY 1, 2`,
    { id },
  );
  return { stop: whatStopDoes(steps, 'stop'), back: whatStopDoes(steps, 'back') };
}

async function wavesIn(
  rollout: Rollout,
  states: readonly StateCount[],
  sites: readonly SiteCount[],
): Promise<WaveView[]> {
  const all = rollout.waves.length > 0 ? rollout.waves : ['All'];
  const clients = rollout.endedAt === null ? await clientsOf(rollout) : new Map<number, WaveView['clients']>();
  return all.map((name, number): WaveView => {
    const own = states.filter(({ wave }) => wave === number);
    const counts: Partial<Record<StepState, number>> = {};
    for (const { state, count } of own) counts[state] = count;
    const devices = own.reduce((sum, { count }) => sum + count, 0);
    const at = sites.find(({ wave }) => wave === number);
    return {
      ...{ name, devices, counts, silent: counts.later ?? 0 },
      sites: at?.sites ?? 0,
      siteNames: at?.names ?? [],
      state: stateOf(counts, devices),
      clients: clients.get(number) ?? null,
    };
  });
}

const select = <T extends object>(sql: string, replacements: Record<string, unknown>): Promise<T[]> =>
  (Rollout.sequelize as Sequelize).query<T>(sql, { replacements, type: QueryTypes.SELECT });

function stateOf(counts: Partial<Record<StepState, number>>, of: number): WaveState {
  const count = (...states: StepState[]): number => states.reduce((sum, state) => sum + (counts[state] ?? 0), 0);
  if (count('kept', 'later') === of) return 'through';
  if (count('waiting') === of) return 'waiting';
  if (count('not-told') === of) return 'not-told';
  return count('put-back') > 0 ? 'put-back' : 'telling';
}

/** Clients at the sites of waves: those counted before each began, and now. */
async function clientsOf({ id: rolloutId }: Rollout): Promise<ReadonlyMap<number, WaveView['clients']>> {
  const rows = await select<{ wave: number; before: number; now: number }>(
    `SELECT t.wave, sum(t.clients)::int AS before, coalesce(sum(d.now), 0)::int AS now FROM rollout_site t
     LEFT JOIN (SELECT site_id, sum(jsonb_array_length(report->'clients')) AS now FROM device
       WHERE online AND report IS NOT NULL AND site_id IN (SELECT site_id FROM rollout_site WHERE rollout_id = :rolloutId)
       GROUP BY 1) d ON d.site_id = t.site_id
     WHERE t.rollout_id = :rolloutId AND t.clients IS NOT NULL GROUP BY 1`,
    { rolloutId },
  );
  return new Map(rows.map(({ wave, before, now }) => [wave, { before, now }]));
}

const siteNames = async (ids: readonly string[]): Promise<ReadonlyMap<string, string>> =>
  new Map(
    (await Site.findAll({ attributes: ['id', 'name'], where: { id: [...ids] } })).map(({ id, name }) => [id, name]),
  );

/** Names of people, by their ids. */
export async function namesOf(personIds: readonly string[]): Promise<Map<string, string>> {
  const people = await Person.findAll({ where: { id: [...new Set(personIds)] } });
  return new Map(people.map((person) => [person.id, person.name]));
}
