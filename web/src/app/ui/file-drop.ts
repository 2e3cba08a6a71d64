import { Component, input, output, signal } from '@angular/core';

/** A place to drop a file on, or to choose one. */
@Component({
  selector: 'il-file-drop',
  template: `
    <label
      [class.over]="over()"
      (dragover)="over.set(true); $event.preventDefault()"
      (dragleave)="over.set(false)"
      (drop)="drop($event)"
    >
      <b>{{ label() }}</b>
      <span class="soft">{{ hint() }}</span>
      <input type="file" [accept]="accept()" (change)="choose($event)" />
    </label>
  `,
  styles: `
    label {
      display: flex;
      flex-direction: column;
      border: 1px dashed var(--strong);
      padding: 8px 12px;
      cursor: pointer;
    }
    .over {
      background: var(--tint);
    }
    label:focus-within {
      outline: 2px solid var(--iron);
    }
    input {
      position: absolute;
      opacity: 0;
      width: 1px;
      height: 1px;
    }
  `,
})
export class FileDrop {
  readonly label = input.required<string>();
  readonly hint = input('');
  readonly accept = input('');
  readonly file = output<File>();
  protected readonly over = signal(false);

  protected choose(event: Event): void {
    const input = event.target as HTMLInputElement;
    const [file] = input.files ?? [];
    input.value = '';
    if (file) this.file.emit(file);
  }

  protected drop(event: DragEvent): void {
    event.preventDefault();
    this.over.set(false);
    const [file] = event.dataTransfer?.files ?? [];
    if (file) this.file.emit(file);
  }
}
