import { Injectable } from '@angular/core';
import type { PreloadingStrategy, Route } from '@angular/router';
import { timer, switchMap, type Observable } from 'rxjs';

/** Long enough for the first screen to have asked for its data and drawn it. */
const LATER_MS = 1500;

/** Fetches the other stages once the first screen stands, so that they do not hold it up and open at once later. */
@Injectable({ providedIn: 'root' })
export class PreloadLater implements PreloadingStrategy {
  preload = (_route: Route, load: () => Observable<unknown>): Observable<unknown> =>
    timer(LATER_MS).pipe(switchMap(load));
}
