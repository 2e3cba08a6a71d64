import type { Language } from '../languages';
import { ar } from './ar';
import { de } from './de';
import { el } from './el';
import { en } from './en';
import { es } from './es';
import { fr } from './fr';
import { it } from './it';
import { pl } from './pl';
import type { PortalTexts } from './portal-texts';

export type { PortalTexts };

/** Of every language that a portal speaks by itself. */
export const PORTAL_TEXTS: Readonly<Record<Language, PortalTexts>> = { en, de, fr, es, it, pl, el, ar };

/** A text with what is put into it. */
export const filled = (text: string, values: Readonly<Record<string, string>>): string =>
  text.replace(/\{(\w+)\}/g, (whole, name: string) => values[name] ?? whole);
