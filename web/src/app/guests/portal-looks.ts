import { Component, computed, input, model, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import {
  contrastOf,
  isColour,
  LANGUAGE_NAMES,
  LANGUAGES,
  LEAST_CONTRAST,
  PICTURE_USES,
  readableOn,
  type Language,
  type PageWords,
  type Picture,
  type PictureUse,
} from '@iron-lattice/core/guests';
import type { Problem } from '../session/problem';
import { Cell } from '../ui/cell';
import { ChoiceCell } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import { PictureCell } from './picture-cell';
import { NO_WORDS, type PortalText } from './portal-text';

/** What is written of a portal in each of its languages. */
export const WORD_FIELDS = ['title', 'text', 'terms', 'news'] as const satisfies readonly (keyof PageWords)[];

/** The language that words are written in: the one that was chosen, while the portal speaks it. */
export const languageIn = ({ languages }: Pick<PortalText, 'languages'>, wanted: Language | null): Language =>
  wanted !== null && languages.includes(wanted) ? wanted : (languages[0] ?? 'en');

/** What the pages of a portal say, in which languages, and how they look. */
@Component({
  selector: 'il-portal-looks',
  imports: [FormsModule, MatButtonModule, MatCheckboxModule, Cell, ChoiceCell, PictureCell, TextCell],
  template: `
    <il-choice-cell
      label="Languages"
      for="portal-languages"
      [hint]="languageHint()"
      [options]="languages"
      [several]="true"
      [value]="text().languages"
      [disabled]="readonly()"
      [flaw]="problem()?.of('languages')"
      (chosen)="put.emit({ languages: $event })"
    />
    <il-choice-cell
      label="Words in"
      for="portal-words-in"
      [options]="chosenLanguages()"
      [value]="language()"
      hint="What is left empty is said in the first language"
      (chosen)="writing.set($event)"
    />
    @for (each of texts; track each.field) {
      <il-text-cell
        [label]="each.label"
        [for]="'portal-' + each.field"
        size="wide"
        [rows]="each.rows"
        [hint]="each.hint"
        [flaw]="problem()?.of('words.' + language() + '.' + each.field)"
        [readonly]="readonly()"
        [value]="words()[each.field]"
        (typed)="write(each.field, $event)"
      />
    }
    <il-cell label="Terms" [flaw]="problem()?.of('agree')">
      <mat-checkbox
        name="agree"
        [disabled]="readonly()"
        [ngModel]="text().agree"
        (ngModelChange)="put.emit({ agree: $event })"
        >Guests have to agree</mat-checkbox
      >
    </il-cell>
    <il-text-cell
      label="Link of the news"
      for="portal-news-link"
      hint="Works before signing in too"
      [flaw]="problem()?.of('newsLink')"
      [readonly]="readonly()"
      [value]="text().newsLink"
      (typed)="put.emit({ newsLink: $event })"
    />
    @for (use of uses; track use) {
      <il-picture-cell
        [label]="use === 'logo' ? 'Logo' : 'Behind the words'"
        [use]="use"
        [of]="of()"
        [value]="text()[use]"
        [readonly]="readonly()"
        (chosen)="put.emit(picture(use, $event))"
      />
    }
    @for (each of colours; track each.field) {
      <il-text-cell
        [label]="each.label"
        [for]="'portal-' + each.field"
        [mono]="true"
        [flaw]="problem()?.of(each.field)"
        [readonly]="readonly()"
        [value]="text()[each.field]"
        (typed)="put.emit(colour(each.field, $event))"
      >
        <input
          beside
          type="color"
          [attr.aria-label]="each.label + ', chosen'"
          [disabled]="readonly()"
          [value]="text()[each.field]"
          (input)="put.emit(colour(each.field, $any($event.target).value))"
        />
      </il-text-cell>
    }
    @if (faint(); as other) {
      <p class="cell full caution">
        Links in {{ text().accent }} on {{ text().ground }} are hard to read ({{ other.ratio }} to 1, and 4.5 is the
        least). They are drawn darker or lighter than said.
        <button mat-button type="button" (click)="put.emit({ accent: other.to })">Take {{ other.to }}</button>
      </p>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    input[type='color'] {
      width: 34px;
      height: 30px;
      padding: 0;
      border: 1px solid var(--rule);
      background: none;
    }
  `,
})
export class PortalLooks {
  /** Id of the portal. */
  readonly of = input.required<string>();
  readonly text = input.required<PortalText>();
  readonly problem = input.required<Problem | null>();
  readonly readonly = input.required<boolean>();
  /** The language that somebody chose to write in. */
  readonly writing = model.required<Language | null>();
  readonly put = output<Partial<PortalText>>();
  protected readonly uses = PICTURE_USES;
  protected readonly colours = [
    { field: 'ground', label: 'Ground' },
    { field: 'accent', label: 'What is pressed' },
  ] as const;
  protected readonly texts = [
    { field: 'title', label: 'Title', rows: 0, hint: 'Empty: Welcome to the site, by its name' },
    { field: 'text', label: 'Text', rows: 3, hint: 'An empty line begins a paragraph' },
    {
      field: 'terms',
      label: 'Terms of use',
      rows: 3,
      hint: 'Another text is another version: who agreed to which is kept',
    },
    { field: 'news', label: 'News of the house', rows: 2, hint: '' },
  ] as const;
  protected readonly languages = LANGUAGES.map((each) => ({ value: each, label: LANGUAGE_NAMES[each] }));
  protected readonly chosenLanguages = computed(() =>
    this.text().languages.map((each) => ({ value: each, label: LANGUAGE_NAMES[each] })),
  );
  protected readonly language = computed(() => languageIn(this.text(), this.writing()));
  protected readonly words = computed((): PageWords => this.text().words[this.language()] ?? NO_WORDS);
  protected readonly languageHint = computed(() => {
    const [first] = this.text().languages;
    return first ? `${LANGUAGE_NAMES[first]} stands in for all others` : 'Choose one at least';
  });
  /** Links that cannot be read well, and what could. */
  protected readonly faint = computed(() => {
    const { ground, accent } = this.text();
    if (!isColour(ground) || !isColour(accent)) return null;
    const ratio = contrastOf(accent, ground);
    return ratio >= LEAST_CONTRAST ? null : { ratio: ratio.toFixed(1), to: readableOn(accent, ground) };
  });

  protected write(field: keyof PageWords, typed: string): void {
    const language = this.language();
    this.put.emit({ words: { ...this.text().words, [language]: { ...this.words(), [field]: typed } } });
  }

  protected picture = (use: PictureUse, picture: Picture | null): Partial<PortalText> => ({ [use]: picture });

  protected colour = (field: 'ground' | 'accent', value: string): Partial<PortalText> => ({ [field]: value });
}
