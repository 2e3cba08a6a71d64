import { Injectable, inject } from '@angular/core';
import type { LiveEvent } from '@iron-lattice/core/base';
import { Observable, share } from 'rxjs';
import { SessionStore } from '../session/session-store';

/** An event of the controller, or word that events may have been missed. */
export type Happening = LiveEvent | { readonly type: 'reconnected' };

/** The controller's event stream, one for the whole page. */
@Injectable({ providedIn: 'root' })
export class LiveEvents {
  private readonly session = inject(SessionStore);

  readonly all: Observable<Happening> = new Observable<Happening>((subscriber) => {
    let source: EventSource;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let opened = false;
    const open = (): void => {
      source = new EventSource('/api/events');
      source.onopen = () => {
        this.session.connected.set(true);
        if (opened) subscriber.next({ type: 'reconnected' });
        opened = true;
      };
      source.onmessage = (message: MessageEvent<string>) => subscriber.next(JSON.parse(message.data) as LiveEvent);
      source.onerror = () => {
        this.session.connected.set(false);
        if (source.readyState !== EventSource.CLOSED) return; // the browser tries again by itself
        timer = setTimeout(open, 2000);
      };
    };
    open();
    return () => {
      clearTimeout(timer);
      source.close();
    };
  }).pipe(share());
}
