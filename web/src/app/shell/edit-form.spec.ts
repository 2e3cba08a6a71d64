import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { EditForm } from './edit-form';
import { Problem } from '../session/problem';

interface Pier {
  readonly id: string;
  readonly name: string;
  readonly berths: number;
  readonly lit?: boolean;
}

describe('EditForm', () => {
  const NORTH: Pier = { id: 'n', name: 'North', berths: 2 };
  const setUp = (pier: Pier | null = NORTH) => {
    const kept = signal<Pier | null>(pier);
    const form = TestBed.runInInjectionContext(
      () =>
        new EditForm<Pier, { name: string; berths: string }>({
          kept,
          idOf: ({ id }) => id,
          textOf: (each) => ({ name: each?.name ?? '', berths: String(each?.berths ?? 1) }),
        }),
    );
    const wanted = () => ({ name: form.text().name, berths: Number(form.text().berths), lit: null });
    const change = () => form.change<Partial<Omit<Pier, 'id' | 'lit'>> & { lit?: boolean | null }>(wanted(), (p) => p);
    return { kept, form, change };
  };

  it('says what differs, from what was seen to what is typed, and nothing else', () => {
    const { form, change } = setUp();
    expect(form.differs()).toBe(false);
    form.put({ berths: '3' });
    expect(form.differs()).toBe(true);
    expect(change()).toEqual({ from: { berths: 2 }, to: { berths: 3 } });
    form.put({ berths: '2' });
    expect(form.differs()).toBe(false);
  });

  it('follows what is heard meanwhile where nothing was typed, and keeps what was', () => {
    const { form, kept, change } = setUp();
    form.put({ berths: '3' });
    kept.set({ ...NORTH, name: 'North pier' });
    expect(form.text()).toEqual({ name: 'North pier', berths: '3' });
    expect(change()).toEqual({ from: { berths: 2 }, to: { berths: 3 } });
  });

  it('says what was seen when typing began, so that it is refused when somebody else was first; then it is meant', async () => {
    const { form, kept, change } = setUp();
    form.put({ berths: '3' });
    kept.set({ ...NORTH, berths: 5 });
    expect(form.text().berths).toBe('3');
    expect(change()).toEqual({ from: { berths: 2 }, to: { berths: 3 } });
    const flaw = { code: 'pier.changed', message: 'Somebody changed the berths meanwhile.', field: 'berths' };
    const refuse = () => Promise.reject(new Problem('draft.refused', flaw.message, [flaw]));
    expect(await form.send(refuse)).toBe(false);
    expect(form.problem()!.of('berths')).toBe(flaw.message);
    expect([form.text().berths, form.busy()]).toEqual(['3', false]);
    expect(change()).toEqual({ from: { berths: 5 }, to: { berths: 3 } });
    kept.set({ ...NORTH, berths: 6 });
    expect(change()).toEqual({ from: { berths: 6 }, to: { berths: 3 } });
  });

  it('keeps what is typed when it is heard of while an edit is on its way that is refused then', async () => {
    const { form, kept } = setUp();
    form.put({ berths: '3' });
    await form.send(async () => {
      kept.set({ ...NORTH, name: 'North pier' });
      expect(form.text()).toEqual({ name: 'North pier', berths: '3' });
      throw new Error('no');
    });
    expect([form.text().berths, form.problem()!.message]).toEqual(['3', 'no']);
  });

  it('means what somebody was told of alone: a third one’s edit is refused again', async () => {
    const { form, kept, change } = setUp();
    form.put({ berths: '3' });
    kept.set({ ...NORTH, berths: 5 });
    const flaw = { code: 'pier.changed', message: 'Somebody changed it.', field: 'berths' };
    await form.send(() => Promise.reject(new Problem('draft.refused', flaw.message, [flaw])));
    form.put({ berths: '4' });
    kept.set({ ...NORTH, berths: 7 });
    expect(change()).toEqual({ from: { berths: 5 }, to: { berths: 4 } });
  });

  it('says what somebody means to change it from: as kept, but as they saw it where another changed what they typed', async () => {
    const { form, kept } = setUp();
    expect(form.before()).toEqual({ name: 'North', berths: '2' });
    form.put({ berths: '3' });
    kept.set({ ...NORTH, name: 'North pier' });
    expect(form.before()).toEqual({ name: 'North pier', berths: '2' });
    kept.set({ ...NORTH, name: 'North pier', berths: 5 });
    expect(form.before()).toEqual({ name: 'North pier', berths: '2' });
    const flaw = { code: 'pier.changed', message: 'Somebody changed it.', field: 'berths' };
    await form.send(() => Promise.reject(new Problem('draft.refused', flaw.message, [flaw])));
    expect(form.before()).toEqual({ name: 'North pier', berths: '5' });
  });

  it('keeps what is typed while an edit before it is on its way', async () => {
    const { form, kept } = setUp();
    form.put({ berths: '3' });
    await form.send(async () => {
      form.put({ name: 'Mole' });
      kept.set({ ...NORTH, berths: 3 });
    });
    expect([form.text(), form.differs()]).toEqual([{ name: 'Mole', berths: '3' }, true]);
  });

  it.each(['before the answer', 'after it'])(
    'means the second of two quick edits on top of the first, which is heard of %s',
    async (when) => {
      const { form, kept, change } = setUp();
      form.put({ berths: '3' });
      await form.send(async () => {
        form.put({ berths: '4' });
        if (when === 'before the answer') kept.set({ ...NORTH, berths: 3 });
      });
      if (when === 'after it') kept.set({ ...NORTH, berths: 3 });
      expect(form.before().berths).toBe('3');
      expect(change()).toEqual({ from: { berths: 3 }, to: { berths: 4 } });
    },
  );

  it('shows what was done as it is kept, and a problem until something else is typed', async () => {
    const { form, kept } = setUp();
    form.put({ name: ' Quay ' });
    expect(await form.send(async () => kept.set({ ...NORTH, name: 'Quay' }))).toBe(true);
    expect([form.text().name, form.differs()]).toEqual(['Quay', false]);
    form.put({ name: '' });
    await form.send(() => Promise.reject(new Error('no')));
    kept.set({ ...NORTH, name: 'Quay' }); // heard of again: the same
    expect(form.other(['name'])).toBe('no');
    form.put({ name: 'Mole' });
    expect(form.problem()).toBeNull();
  });

  it('begins anew with another thing, and empty for a new one', () => {
    const { form, kept } = setUp();
    form.put({ name: 'typed' });
    kept.set({ id: 's', name: 'South', berths: 4 });
    expect(form.text()).toEqual({ name: 'South', berths: '4' });
    kept.set(null);
    expect(form.text()).toEqual({ name: '', berths: '1' });
    form.put({ name: 'New' });
    form.reset();
    expect(form.text().name).toBe('');
  });
});
