import type { RolloutView } from '@iron-lattice/core/rollout';
import { Device } from '../roster/device.model';
import { Person } from '../session/person.model';
import { RolloutStep, type Rollout } from './rollout.model';

/** A rollout as people see it, with what became of each device. */
export async function viewOf(rollout: Rollout): Promise<RolloutView> {
  const steps = await RolloutStep.findAll({ where: { rolloutId: rollout.id }, order: ['position'] });
  const devices = await Device.findAll({
    where: { id: steps.map((step) => step.deviceId) },
    attributes: ['id', 'siteId', 'name'],
  });
  const byId = new Map(devices.map((device) => [device.id, device]));
  const names = await namesOf([rollout.personId]);
  const { id, draftName, state, revision, reason, resumed, startedAt, endedAt } = rollout;
  return {
    id,
    draftName,
    state,
    revision,
    reason,
    resumed,
    startedBy: names.get(rollout.personId) ?? '',
    startedAt: startedAt.toISOString(),
    endedAt: endedAt?.toISOString() ?? null,
    steps: steps.map((step) => ({
      deviceId: step.deviceId,
      siteId: byId.get(step.deviceId)?.siteId ?? '',
      name: byId.get(step.deviceId)?.name ?? '',
      state: step.state,
      reason: step.reason,
      added: step.added,
      removed: step.removed,
    })),
  };
}

/** Names of people, by their ids. */
export async function namesOf(personIds: readonly string[]): Promise<Map<string, string>> {
  const people = await Person.findAll({ where: { id: [...new Set(personIds)] } });
  return new Map(people.map((person) => [person.id, person.name]));
}
