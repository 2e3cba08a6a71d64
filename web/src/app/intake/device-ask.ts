import { Component, computed, inject, input, resource, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DeviceView } from '@iron-lattice/core/intake';
import type { CommandName } from '@iron-lattice/core/line';
import { problemOf } from '../session/problem';
import { Cell } from '../ui/cell';
import { saveFile } from '../ui/export-rows';
import { IntakeApi } from './intake-api';
import { TextCell } from '../ui/text-cell';
import { ChoiceCell } from '../ui/choice-cell';
import { anewFor } from '../ui/anew-for';
import { typedOver } from '../ui/typed-over';

interface Said {
  readonly asked: string;
  readonly text: string;
  readonly ok: boolean | null;
}

/** What a device can be asked, and what it answered. */
@Component({
  selector: 'il-device-ask',
  imports: [MatButtonModule, Cell, TextCell, ChoiceCell],
  template: `
    <div class="cells">
      @if (refusal(); as text) {
        <il-cell label="It cannot be asked now" size="full"
          ><div class="value">{{ text }}</div></il-cell
        >
      } @else {
        <il-text-cell
          label="Address or name"
          for="ask-target"
          [mono]="true"
          [value]="target()"
          (typed)="target.set($event)"
          (entered)="ask('ping', target())"
        />
        <il-cell label="From where it stands" size="wide">
          <div class="row">
            <button mat-stroked-button [disabled]="busy() || !target()" (click)="ask('ping', target())">Ping</button>
            <button mat-stroked-button [disabled]="busy() || !target()" (click)="ask('trace', target())">
              Trace route
            </button>
            <button mat-stroked-button [disabled]="busy() || !target()" (click)="ask('lookup', target())">
              Look up name
            </button>
          </div>
        </il-cell>
        <il-cell label="The box itself" [hint]="restartHint()">
          <div class="row">
            <button mat-stroked-button [disabled]="busy()" (click)="ask('locate', '')">Blink its light</button>
            <button mat-stroked-button [disabled]="busy()" (click)="ask('restart', '')">
              {{ behind().length > 0 ? 'Restart, with ' + behind().length + ' behind it' : 'Restart' }}
            </button>
          </div>
        </il-cell>
        <il-choice-cell
          label="Capture packets at"
          for="ask-port"
          [options]="ports()"
          [value]="port()"
          (chosen)="port.set($event)"
        />
        <il-choice-cell
          label="For how long"
          for="ask-seconds"
          hint="A pcapng file, as network analysers read it."
          [options]="times"
          [value]="seconds()"
          (chosen)="seconds.set($event)"
        >
          <button beside mat-stroked-button [disabled]="capturing()" (click)="capture()">
            {{ capturing() ? 'Capturing…' : 'Capture' }}
          </button>
        </il-choice-cell>
      }
      <div class="cell full answers" role="log" aria-label="Answers">
        @for (each of said(); track $index) {
          <p class="mono asked">{{ each.asked }}</p>
          <pre class="mono" [class.bad]="each.ok === false">{{ each.text }}</pre>
        } @empty {
          <p class="soft">Answers appear here.</p>
        }
      </div>
    </div>
  `,
  styles: `
    .row {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      align-items: center;
    }
    .asked {
      color: var(--soft);
    }
    pre {
      margin: 0 0 6px;
      white-space: pre-wrap;
    }
  `,
})
export class DeviceAsk {
  private readonly api = inject(IntakeApi);
  readonly device = input.required<DeviceView>();
  /** What people ask for first; empty when it is not known. */
  readonly gateway = input('');
  private readonly id = computed(() => this.device().id);
  protected readonly target = typedOver(this.id, this.gateway);
  protected readonly said = anewFor<readonly Said[]>(this.id, () => []);
  protected readonly busy = signal(false);
  protected readonly capturing = signal(false);
  protected readonly port = signal('');
  protected readonly seconds = signal(5);
  protected readonly times = [2, 5, 15, 60].map((value) => ({ value, label: `${value} s` }));
  protected readonly ports = computed(() => [
    { value: '', label: 'all ports' },
    ...this.device().ports.map((port) => ({ value: port, label: `port ${port}` })),
  ]);
  private readonly leftovers = resource({
    params: () => this.id(),
    loader: ({ params }) => this.api.leftovers(params),
  });
  /** Names of devices that hang on it alone, and are away with it. */
  protected readonly behind = computed(() =>
    this.leftovers.hasValue() ? this.leftovers.value().flatMap(({ devices = [] }) => devices) : [],
  );
  protected readonly restartHint = computed(() => {
    const names = this.behind();
    if (names.length === 0) return 'A restart has it away for a moment';
    const some = names.length <= 6 ? names.join(', ') : `${names.slice(0, 6).join(', ')} and ${names.length - 6} more`;
    return `A restart has it away for a moment, and all that hang on it: ${some}`;
  });
  protected readonly refusal = computed(() => {
    const { state, updating } = this.device();
    if (state === 'silent') return 'It is silent. Check its power and cable.';
    return updating ? `It is being updated to ${updating}.` : null;
  });

  protected async ask(name: CommandName, target: string): Promise<void> {
    const asked =
      `${{ ping: 'ping', trace: 'trace route to', lookup: 'look up' }[name as string] ?? name} ${target}`.trim();
    this.busy.set(true);
    try {
      const { ok, text } = await this.api.command(this.id(), name, target.trim());
      this.say({ asked, text, ok });
    } catch (error) {
      this.say({ asked, text: problemOf(error).message, ok: false });
    } finally {
      this.busy.set(false);
    }
  }

  protected async capture(): Promise<void> {
    const asked = `capture ${this.port() ? `port ${this.port()}` : 'all ports'} for ${this.seconds()} s`;
    this.capturing.set(true);
    try {
      const { name, file } = await this.api.capture(this.id(), this.port(), this.seconds());
      saveFile(name, file);
      this.say({ asked, text: `Saved as ${name}, ${file.size} octets.`, ok: true });
    } catch (error) {
      this.say({ asked, text: problemOf(error).message, ok: false });
    } finally {
      this.capturing.set(false);
    }
  }

  private say(said: Said): void {
    this.said.update((before) => [said, ...before].slice(0, 20));
  }
}
