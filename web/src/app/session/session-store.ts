import { HttpClient } from '@angular/common/http';
import { Injectable, computed, inject, signal } from '@angular/core';
import type { PersonView } from '@iron-lattice/core/base';
import type { SetUpState } from '@iron-lattice/core/intake';
import { firstValueFrom } from 'rxjs';

/** Who is signed in, and whether the controller is heard. */
@Injectable({ providedIn: 'root' })
export class SessionStore {
  private readonly http = inject(HttpClient);
  readonly person = signal<PersonView | null>(null);
  readonly connected = signal(true);
  /** Whether the person may change things. */
  readonly mayChange = computed(() => this.person()?.role === 'administrator');

  /** Looks who is signed in. @returns whether anybody is. */
  async restore(): Promise<boolean> {
    if (this.person()) return true;
    const { person } = await firstValueFrom(this.http.get<{ person: PersonView | null }>('/api/session'));
    this.person.set(person);
    return person !== null;
  }

  /** Whether the controller is new and has to be set up first. */
  async isEmpty(): Promise<boolean> {
    return (await firstValueFrom(this.http.get<SetUpState>('/api/set-up'))).needed;
  }

  async signIn(email: string, password: string): Promise<void> {
    this.person.set(await firstValueFrom(this.http.post<PersonView>('/api/session', { email, password })));
  }

  async signOut(): Promise<void> {
    await firstValueFrom(this.http.delete('/api/session'));
    this.person.set(null);
  }
}
