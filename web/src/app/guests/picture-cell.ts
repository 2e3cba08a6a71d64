import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { PICTURE_SIZE, type Picture, type PictureMade, type PictureUse } from '@iron-lattice/core/guests';
import { attempt, type Problem } from '../session/problem';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { FileDrop } from '../ui/file-drop';
import { octetsWords } from '../ui/octets-words';
import { PortalPictures } from './portal-pictures';

/** A picture of a portal: brought, looked at, taken or left. */
@Component({
  selector: 'il-picture-cell',
  imports: [MatButtonModule, Cell, FileDrop],
  template: `
    <il-cell [label]="label()" size="wide" [flaw]="problem()?.message">
      @if (value(); as picture) {
        <div class="kept">
          @if (pictures.at(picture.id); as src) {
            <img [src]="src" [alt]="label() + ', as guests see it'" />
          }
          <span class="soft">{{ picture.width }} × {{ picture.height }}</span>
          @if (!readonly()) {
            <button mat-button type="button" (click)="chosen.emit(null)">Take away</button>
          }
        </div>
      }
      @if (made(); as one) {
        <div class="kept" role="status">
          @if (pictures.at(one.picture.id); as src) {
            <img [src]="src" alt="As guests would see it" />
          }
          <span>{{ words() }}</span>
          <button mat-stroked-button type="button" (click)="take(one.picture)">Take it so</button>
          <button mat-button type="button" (click)="made.set(null)">Leave it</button>
        </div>
      } @else if (!readonly()) {
        <il-file-drop
          [label]="busy() ? 'Being drawn…' : value() ? 'Another picture' : 'Choose a picture, or drop it here'"
          hint="PNG, JPEG or SVG, as large as it is"
          accept="image/png,image/jpeg,image/svg+xml"
          (file)="bring($event)"
        />
      }
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    .kept {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 10px;
      padding-bottom: 6px;
    }
    img {
      max-width: 150px;
      max-height: 60px;
      border: 1px solid var(--rule);
    }
  `,
})
export class PictureCell {
  protected readonly pictures = inject(PortalPictures);
  readonly label = input.required<string>();
  readonly use = input.required<PictureUse>();
  readonly value = input.required<Picture | null>();
  readonly readonly = input.required<boolean>();
  /** Id of what it is a picture of; what was brought for another is forgotten. */
  readonly of = input.required<string>();
  readonly chosen = output<Picture | null>();
  protected readonly busy = signal(false);
  protected readonly problem = anewFor<Problem | null>(
    () => this.of(),
    () => null,
  );
  /** What became of the one that was brought, until it is taken or left. */
  protected readonly made = anewFor<PictureMade | null>(
    () => this.of(),
    () => null,
  );
  protected readonly words = computed(() => {
    const { was, octets, scaled, picture } = this.made()!;
    const size = `${picture.width} × ${picture.height}, ${octetsWords(octets)}`;
    if (!scaled) return `Guests see it as ${size}.`;
    const { width, height } = PICTURE_SIZE[this.use()];
    return `It is ${was.width} × ${was.height}, ${octetsWords(was.octets)}: more than ${width} × ${height} is not shown. Guests would see it as ${size}.`;
  });

  protected async bring(file: File): Promise<void> {
    this.made.set(null);
    await attempt(this.busy, this.problem, async () => {
      const made = await this.pictures.bring(this.use(), file);
      // What guests see as it was brought needs no question.
      if (made.scaled) this.made.set(made);
      else this.chosen.emit(made.picture);
    });
  }

  protected take(picture: Picture): void {
    this.made.set(null);
    this.chosen.emit(picture);
  }
}
