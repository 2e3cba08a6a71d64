/** Rollouts beside each other: which revision took one back. */
export const name = '0008-side-by-side';
export const sql = `
DROP INDEX rollout_one_at_a_time;
CREATE INDEX rollout_under_way ON rollout (started_at) WHERE ended_at IS NULL;
ALTER TABLE rollout ADD back int;
UPDATE rollout SET back = revision + 1 WHERE state = 'put-back' AND revision IS NOT NULL;
`;
