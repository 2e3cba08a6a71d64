/** The stages that are built, in the order the work is done. */
export const STAGES = [
  { path: 'intake', name: 'Intake' },
  { path: 'lattice', name: 'Lattice' },
  { path: 'wireless', name: 'Wireless' },
  { path: 'rules', name: 'Rules' },
  { path: 'entry', name: 'Entry' },
  { path: 'bench', name: 'Bench' },
  { path: 'rollout', name: 'Rollout' },
] as const;

export type StagePath = (typeof STAGES)[number]['path'];
