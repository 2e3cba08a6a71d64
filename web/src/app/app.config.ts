import { provideHttpClient, withInterceptors } from '@angular/common/http';
import { provideZonelessChangeDetection, type ApplicationConfig } from '@angular/core';
import { MAT_RIPPLE_GLOBAL_OPTIONS } from '@angular/material/core';
import { MAT_FORM_FIELD_DEFAULT_OPTIONS } from '@angular/material/form-field';
import { MAT_SNACK_BAR_DEFAULT_OPTIONS } from '@angular/material/snack-bar';
import { provideRouter, withPreloading, withComponentInputBinding, withRouterConfig } from '@angular/router';
import { routes } from './app.routes';
import { PreloadLater } from './preload-later';
import { asProblem } from './session/problem';
import { STAGES } from './shell/stage';
import { ALL_STAGES } from './stages';

export const appConfig: ApplicationConfig = {
  providers: [
    provideZonelessChangeDetection(),
    { provide: STAGES, useValue: ALL_STAGES },
    provideRouter(
      routes,
      withComponentInputBinding(),
      withPreloading(PreloadLater),
      withRouterConfig({ paramsInheritanceStrategy: 'always' }),
    ),
    provideHttpClient(withInterceptors([asProblem])),
    { provide: MAT_FORM_FIELD_DEFAULT_OPTIONS, useValue: { appearance: 'outline', hideRequiredMarker: true } },
    { provide: MAT_RIPPLE_GLOBAL_OPTIONS, useValue: { disabled: true } },
    { provide: MAT_SNACK_BAR_DEFAULT_OPTIONS, useValue: { duration: 6000, horizontalPosition: 'start' } },
  ],
};
