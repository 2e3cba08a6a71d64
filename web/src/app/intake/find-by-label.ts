import { Component, DestroyRef, type ElementRef, computed, inject, input, signal, viewChild } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { readLabel, type ExpectResult } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { attempt, Problem } from '../session/problem';
import { Cell } from '../ui/cell';
import { StateMark } from '../ui/state-mark';
import { IntakeApi } from './intake-api';
import { TextCell } from '../ui/text-cell';
import { ChoiceCell } from '../ui/choice-cell';

/** Pixels a picture is reduced to before it is read. */
const WIDTH = 640;

/** The label of the box in front of an installer: scanned, pasted, or its serial number typed. */
@Component({
  selector: 'il-find-by-label',
  imports: [MatButtonModule, Cell, StateMark, TextCell, ChoiceCell],
  template: `
    <div class="cells">
      <il-cell label="Camera" [flaw]="cameraProblem()">
        @if (scanning()) {
          <div class="view"><video #video playsinline muted aria-label="What the camera sees"></video></div>
          <button mat-stroked-button (click)="stop()">Stop the camera</button>
        } @else {
          <button mat-flat-button class="big" (click)="scan()">Scan a label</button>
        }
      </il-cell>
      @if (siteId() === null) {
        <il-choice-cell
          label="Site it stands at"
          for="label-site"
          [options]="estate.siteChoices()"
          [value]="chosenSite()"
          (chosen)="chosenSite.set($event)"
        />
      }
      <il-text-cell
        label="Or the label’s text, or its serial number"
        for="label-text"
        size="wide"
        [flaw]="problem()?.message"
        [hint]="read()"
        [mono]="true"
        [value]="text()"
        (typed)="text.set($event)"
        (entered)="label() && take(text())"
      >
        <button beside mat-stroked-button [disabled]="busy() || !label()" (click)="take(text())">Take it in</button>
      </il-text-cell>
      @for (each of taken(); track each.device.id) {
        <div class="cell full taken" role="status">
          <il-state-mark [state]="each.claimed ? 'behind' : 'expected'" />
          <span class="mono">{{ each.device.serial }}</span>
          @if (each.claimed) {
            <span
              >is claimed as <b class="mono">{{ each.device.name }}</b> and comes into step.</span
            >
          } @else {
            <span>is expected. Plug it in: it comes into step by itself.</span>
          }
        </div>
      }
    </div>
  `,
  styles: `
    .view {
      max-width: 320px;
      border: 1px solid var(--ink);
      margin-bottom: 6px;
    }
    video {
      width: 100%;
      display: block;
    }
    .taken {
      display: flex;
      gap: 8px;
      align-items: center;
      flex-wrap: wrap;
    }
    @media (max-width: 720px) {
      .big {
        width: 100%;
        height: 46px;
      }
      .view {
        max-width: none;
      }
    }
  `,
})
export class FindByLabel {
  private readonly api = inject(IntakeApi);
  private readonly session = inject(SessionStore);
  protected readonly estate = inject(EstateStore);
  readonly siteId = input.required<string | null>();
  private readonly video = viewChild<ElementRef<HTMLVideoElement>>('video');

  protected readonly chosenSite = signal('');
  protected readonly text = signal('');
  protected readonly problem = signal<Problem | null>(null);
  protected readonly cameraProblem = signal('');
  protected readonly busy = signal(false);
  protected readonly scanning = signal(false);
  protected readonly taken = signal<readonly ExpectResult[]>([]);
  protected readonly label = computed(() => readLabel(this.text()));
  protected readonly read = computed(() => {
    if (this.text().trim() === '') return '';
    const label = this.label();
    if (!label) return 'This is neither a label’s text nor a serial number.';
    return [label.serial, label.model, label.mac, label.fingerprint && `key ${label.fingerprint}`]
      .filter(Boolean)
      .join(' · ');
  });
  private stream: MediaStream | null = null;
  private worker: Worker | null = null;

  constructor() {
    inject(DestroyRef).onDestroy(() => this.stop());
  }

  protected async scan(): Promise<void> {
    this.cameraProblem.set('');
    if (!('mediaDevices' in navigator)) {
      this.cameraProblem.set('The browser gives the camera only to pages over https. Type the serial number instead.');
      return;
    }
    try {
      this.stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: 'environment' } });
    } catch {
      this.cameraProblem.set('The camera is not to be had: allow it for this page, or type the serial number.');
      return;
    }
    this.scanning.set(true);
    this.worker = new Worker(new URL('./label-reader.worker.ts', import.meta.url), { type: 'module' });
    this.worker.onmessage = ({ data }: MessageEvent<string | null>) => {
      if (data !== null && readLabel(data)) {
        this.stop();
        this.text.set(data);
        void this.take(data);
      } else requestAnimationFrame(() => this.look());
    };
    setTimeout(() => void this.begin()); // once the picture is there
  }

  private async begin(): Promise<void> {
    const video = this.video()?.nativeElement;
    if (!video || !this.stream) return;
    video.srcObject = this.stream;
    await video.play();
    this.look();
  }

  protected stop(): void {
    this.scanning.set(false);
    for (const track of this.stream?.getTracks() ?? []) track.stop();
    this.stream = null;
    this.worker?.terminate();
    this.worker = null;
  }

  /** Claims the box when it calls, else waits for it. */
  protected async take(text: string): Promise<void> {
    const label = readLabel(text);
    const siteId = this.siteId() ?? this.chosenSite();
    this.problem.set(null);
    if (!label || !this.session.mayChange()) return;
    if (siteId === '') {
      this.problem.set(new Problem('site', 'Choose the site it stands at.', []));
      return;
    }
    await attempt(this.busy, this.problem, async () => {
      const { serial, model, mac, fingerprint } = label;
      const wish = {
        serial,
        ...(model ? { model } : {}),
        ...(mac ? { mac } : {}),
        ...(fingerprint ? { fingerprint } : {}),
      };
      const result = await this.api.expect(siteId, wish);
      this.taken.update((before) => [result, ...before.filter((each) => each.device.id !== result.device.id)]);
      this.text.set('');
    });
  }

  /** Gives the worker the picture that is there now. */
  private look(): void {
    const video = this.video()?.nativeElement;
    if (!video || !this.worker) return;
    if (video.videoWidth === 0) {
      requestAnimationFrame(() => this.look());
      return;
    }
    const [width, height] = [WIDTH, Math.round((video.videoHeight / video.videoWidth) * WIDTH)];
    const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
    context.drawImage(video, 0, 0, width, height);
    const pixels = context.getImageData(0, 0, width, height).data.buffer;
    this.worker.postMessage({ pixels, width, height }, [pixels]);
  }
}
