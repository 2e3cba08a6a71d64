import { Injectable, effect, signal } from '@angular/core';

type ThemeName = 'light' | 'dark';
const KEY = 'lattice.theme';

/** Light or dark: as the person chose, else as the machine prefers. */
@Injectable({ providedIn: 'root' })
export class Theme {
  readonly name = signal<ThemeName>(
    (localStorage.getItem(KEY) as ThemeName | null) ??
      (matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'),
  );

  constructor() {
    effect(() => (document.documentElement.dataset['theme'] = this.name()));
  }

  toggle(): void {
    this.name.update((name) => (name === 'light' ? 'dark' : 'light'));
    localStorage.setItem(KEY, this.name());
  }
}
