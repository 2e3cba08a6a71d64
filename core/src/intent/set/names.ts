import type { Naming } from '../noun';

/** Sets hold other sets by name; since a set that is held keeps its name, none has to follow. */
export const namingOfSets: Naming = {
  userOf: ({ sets }, kind, name) => {
    const user = kind === 'set' ? sets?.find((each) => each.sets?.includes(name)) : undefined;
    return user ? `the set “${user.name}”` : null;
  },
  follow: (part) => part,
};
