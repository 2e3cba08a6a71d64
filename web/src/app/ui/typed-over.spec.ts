import { signal } from '@angular/core';
import { typedOver } from './typed-over';

describe('typedOver', () => {
  const setUp = () => {
    const device = signal({ id: 'a', name: 'bm-ap-01', tags: ['pier'] });
    return {
      device,
      text: typedOver(
        () => device().id,
        () => ({ name: device().name, tags: device().tags.join() }),
      ),
    };
  };

  it('follows what is kept until it is touched, each field alone', () => {
    const { device, text } = setUp();
    expect(text()).toEqual({ name: 'bm-ap-01', tags: 'pier' });
    text.set({ ...text(), name: 'bm-ap-09' });
    device.set({ id: 'a', name: 'bm-ap-01', tags: ['quay'] });
    expect(text()).toEqual({ name: 'bm-ap-09', tags: 'quay' });
    device.set({ id: 'a', name: 'bm-ap-02', tags: ['quay'] });
    expect(text()).toEqual({ name: 'bm-ap-09', tags: 'quay' });
  });

  it('begins anew with another thing', () => {
    const { device, text } = setUp();
    text.set({ name: 'typed', tags: 'typed' });
    device.set({ id: 'b', name: 'bm-ap-02', tags: [] });
    expect(text()).toEqual({ name: 'bm-ap-02', tags: '' });
  });

  it('holds plain texts and lists too', () => {
    const kept = signal<{ id: string; mac: string }>({ id: 'a', mac: '' });
    const mac = typedOver(
      () => kept().id,
      () => kept().mac,
    );
    mac.set('02:00');
    kept.set({ id: 'a', mac: '' });
    expect(mac()).toBe('02:00');
    kept.set({ id: 'b', mac: '' });
    expect(mac()).toBe('');
  });
});
