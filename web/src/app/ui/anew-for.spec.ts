import { signal } from '@angular/core';
import { anewFor } from './anew-for';

describe('anewFor', () => {
  it('keeps what was typed while the thing is heard of anew, and begins anew for another', () => {
    const thing = signal({ id: 'a', heard: 1 });
    const typed = anewFor(
      () => thing().id,
      () => `of ${thing().heard}`,
    );
    expect(typed()).toBe('of 1');
    typed.set('typed');
    thing.set({ id: 'a', heard: 2 });
    expect(typed()).toBe('typed');
    thing.set({ id: 'b', heard: 3 });
    expect(typed()).toBe('of 3');
  });
});
