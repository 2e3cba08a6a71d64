import { Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import type { DeviceView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { SeverityMark } from '../ui/severity-mark';
import { IntakeApi } from './intake-api';
import { TextCell } from '../ui/text-cell';
import { ChoiceCell } from '../ui/choice-cell';
import { anewFor } from '../ui/anew-for';

/** A device's place: another box in it, another site for it, or none; each says beforehand what it would mean. */
@Component({
  selector: 'il-device-place',
  imports: [FormsModule, MatButtonModule, Cell, SeverityMark, TextCell, ChoiceCell],
  template: `
    <div class="cells">
      <il-cell
        label="Replace the box"
        size="wide"
        hint="The new box takes its name, address, port duties, radios and history. It has to call; the old one starts anew."
      >
        @if (candidates.hasValue()) {
          @for (box of candidates.value(); track box.serial) {
            <div>
              <label class="box">
                <input type="radio" name="box" [value]="box.serial" [(ngModel)]="serial" />
                <span
                  ><span class="mono">{{ box.serial }}</span> {{ box.model }}</span
                >
                @for (loss of box.losses; track loss.code) {
                  <span [class]="loss.severity === 'refused' ? 'bad loss' : 'caution loss'">{{ loss.message }}</span>
                } @empty {
                  <span class="good loss">Nothing would be lost.</span>
                }
              </label>
            </div>
          } @empty {
            <p class="soft">No box calls. Cable the new one to the internet first.</p>
          }
        }
        @if (may() && chosen(); as box) {
          <button mat-stroked-button [disabled]="busy() || refused(box)" (click)="replace(box)">
            {{ box.losses.length > 0 ? 'Replace all the same' : 'Replace' }}
          </button>
        }
      </il-cell>
      <il-cell label="Without it this site would be left with" size="wide">
        @if (leftovers.hasValue()) {
          @for (each of leftovers.value(); track each.code) {
            <p class="left"><il-severity-mark [severity]="each.severity" /> {{ each.message }}</p>
          }
        }
      </il-cell>
      @if (may()) {
        <il-choice-cell
          label="Take to another site"
          for="place-site"
          hint="It gets that site’s next name and its documents."
          [options]="sites()"
          [value]="siteId()"
          (chosen)="siteId.set($event)"
        >
          <button beside mat-stroked-button [disabled]="busy() || !siteId()" (click)="move()">Move</button>
        </il-choice-cell>
        <il-text-cell
          label="Let it go"
          for="place-name"
          [hint]="
            'It goes back to factory state' +
            (device().state === 'silent' ? ' when it is heard again' : '') +
            '. Type its name to be sure.'
          "
          [mono]="true"
          [example]="device().name ?? ''"
          [value]="typed()"
          (typed)="typed.set($event)"
        >
          <button beside mat-stroked-button [disabled]="busy() || typed() !== device().name" (click)="release()">
            Release
          </button>
        </il-text-cell>
      }
      @if (problem()) {
        <div class="cell full">
          <p class="flaw" role="alert">{{ problem()?.message }}</p>
        </div>
      }
    </div>
  `,
  styles: `
    .box {
      display: grid;
      grid-template-columns: 20px 1fr;
      cursor: pointer;
      margin-bottom: 4px;
    }
    .loss {
      grid-column: 2;
      font-size: 12px;
      line-height: 16px;
    }
    .left {
      margin-bottom: 3px;
    }
  `,
})
export class DevicePlace {
  private readonly api = inject(IntakeApi);
  private readonly site = inject(SiteStore);
  private readonly estate = inject(EstateStore);
  private readonly session = inject(SessionStore);
  readonly device = input.required<DeviceView>();
  readonly changed = output<void>();
  readonly gone = output<void>();

  protected readonly may = this.session.mayChange;
  private readonly id = computed(() => this.device().id);
  protected readonly candidates = resource({
    params: () => this.device(),
    loader: ({ params }) => this.api.candidates(params.id),
  });
  protected readonly leftovers = resource({
    params: () => this.device(),
    loader: ({ params }) => this.api.leftovers(params.id),
  });
  protected readonly serial = anewFor(this.id, () => '');
  protected readonly siteId = anewFor(this.id, () => '');
  protected readonly typed = anewFor(this.id, () => '');
  protected readonly problem = anewFor<Problem | null>(this.id, () => null);
  protected readonly busy = signal(false);
  protected readonly chosen = computed(() =>
    this.candidates.hasValue() ? this.candidates.value().find((box) => box.serial === this.serial()) : undefined,
  );
  protected readonly sites = computed(() =>
    this.estate.siteChoices().filter(({ value }) => value !== this.device().siteId),
  );

  protected refused = (box: { losses: readonly { severity: string }[] }): boolean =>
    box.losses.some((loss) => loss.severity === 'refused');

  protected replace(box: { serial: string; losses: readonly unknown[] }): Promise<void> {
    return this.act(async () => {
      await this.api.replace(this.id(), box.serial, box.losses.length > 0);
      this.site.say(`${box.serial} is ${this.device().name} now.`);
      this.changed.emit();
    });
  }

  protected move(): Promise<void> {
    return this.act(async () => {
      const { name } = await this.api.move(this.id(), this.siteId());
      this.site.say(`${this.device().name} is ${name} now.`);
      await this.site.reloadDevices();
      this.gone.emit();
    });
  }

  protected release(): Promise<void> {
    return this.act(async () => {
      await this.api.release(this.id());
      this.site.say(`${this.device().name} was released.`);
      await this.site.reloadDevices();
      this.gone.emit();
    });
  }

  private async act(act: () => Promise<void>): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      await act();
    });
  }
}
