import { UniqueConstraintError } from 'sequelize';

/** How often what two do at once is tried again, each after the other. */
const TRIES = 3;

/** Does again what failed since another was first who did the same. */
export async function oneByOne<T>(act: () => Promise<T>, left = TRIES): Promise<T> {
  try {
    return await act();
  } catch (error) {
    if (!(error instanceof UniqueConstraintError) || left <= 1) throw error;
    return oneByOne(act, left - 1);
  }
}
