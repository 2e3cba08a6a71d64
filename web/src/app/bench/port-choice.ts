import { Component, computed, effect, inject, linkedSignal, model, untracked } from '@angular/core';
import { waysOf } from '@iron-lattice/core/document';
import { sheetFor } from '@iron-lattice/core/hardware';
import { portSetting } from '@iron-lattice/core/intent';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell } from '../ui/choice-cell';

/** A port of a device. */
export interface ChosenPort {
  readonly deviceId: string;
  readonly port: string;
  /** Whether it asks who somebody is (802.1X), by the draft. */
  readonly asks: boolean;
  /** Whether a portal may hold whoever is there, by the draft. */
  readonly held: boolean;
}

/** Cells in which a port of the site is chosen: a device, and one of its ports that clients may be at. */
@Component({
  selector: 'il-port-choice',
  imports: [ChoiceCell],
  template: `
    <il-choice-cell
      label="Of device"
      for="port-device"
      [options]="devices()"
      [value]="deviceId()"
      (chosen)="deviceId.set($event)"
    />
    <il-choice-cell label="Port" for="port-name" [options]="ports()" [value]="port()" (chosen)="port.set($event)" />
  `,
  styles: ':host { display: contents; }',
})
export class PortChoice {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  readonly chosen = model<ChosenPort | null>(null);
  /** Ports that cables to devices of ours end at. */
  private readonly taken = computed(
    () =>
      new Set(
        (this.store.data()?.links ?? []).flatMap(({ a, b }) => [a, b].map((end) => `${end.deviceId} ${end.port}`)),
      ),
  );
  private readonly able = computed(() =>
    this.store.devices().flatMap((device) => {
      const ports = sheetFor(device).ports.flatMap(({ name, role }) =>
        role === 'wan' || this.taken().has(`${device.id} ${name}`) ? [] : [name],
      );
      return ports.length > 0 ? [{ id: device.id, name: device.name ?? device.serial, kind: device.kind, ports }] : [];
    }),
  );
  protected readonly devices = computed(() => this.able().map(({ id, name }) => ({ value: id, label: name })));
  /** Choices stay while they are possible; at first a switch: most clients hang there. */
  protected readonly deviceId = linkedSignal<readonly string[], string | undefined>({
    source: () => this.able().map(({ id }) => id),
    computation: (ids, previous) =>
      ids.find((id) => id === (previous?.value ?? untracked(this.chosen)?.deviceId)) ??
      untracked(this.able).find(({ kind }) => kind === 'switch')?.id ??
      ids[0],
  });
  private readonly names = computed(() => this.able().find(({ id }) => id === this.deviceId())?.ports ?? []);
  protected readonly ports = computed(() => this.names().map((name) => ({ value: name, label: name })));
  protected readonly port = linkedSignal<readonly string[], string | undefined>({
    source: this.names,
    computation: (names, previous) =>
      names.find((name) => name === (previous?.value ?? untracked(this.chosen)?.port)) ?? names[0],
  });

  constructor() {
    effect(() => {
      const [deviceId, port] = [this.deviceId(), this.port()];
      const device = this.store.devices().find(({ id }) => id === deviceId);
      const site = this.store.site();
      if (!site || !device || port === undefined) return this.chosen.set(null);
      const { auth, portal } = portSetting(site, device, port);
      const held = portal !== null || (auth !== 'none' && this.shared.namesPortals());
      this.chosen.set({ deviceId: device.id, port, asks: waysOf(auth).includes('802.1X'), held });
    });
  }
}
