import { Component, computed, input, output } from '@angular/core';
import type { Flaw } from '@iron-lattice/core/base';
import type { SegmentText } from './segment-text';
import { Cell } from '../../ui/cell';
import { TextCell } from '../../ui/text-cell';

/** Parts of a segment's sheet. */
export const SECTIONS = ['Segment', 'Addresses', 'Served from', 'IPv6', 'Isolation', 'Caps'] as const;
/** Parts that have a form of their own. */
type OwnForm = 'Served from' | 'Isolation' | 'Caps';
export type Section = (typeof SECTIONS)[number];

interface Field {
  readonly key: keyof SegmentText;
  readonly label: string;
  /** Field that core names in its flaws. */
  readonly flaw: string;
  readonly hint?: string;
  readonly words?: true;
  /** Several lines. */
  readonly lines?: true;
}

const FIELDS: Readonly<Record<Exclude<Section, OwnForm>, readonly Field[]>> = {
  Segment: [
    { key: 'name', label: 'Name', flaw: 'name', words: true },
    { key: 'vlan', label: 'VLAN ID', flaw: 'vlan', hint: '1 to 4094' },
    { key: 'subnet', label: 'Subnet', flaw: 'subnet', hint: 'Like 10.20.40.0/24' },
    { key: 'gateway', label: 'Gateway address', flaw: 'gateway', hint: 'In the subnet' },
    { key: 'first', label: 'Addresses given, from', flaw: 'first', hint: 'Clear of the gateway' },
    { key: 'last', label: 'to', flaw: 'last' },
    { key: 'leaseHours', label: 'Lease, in hours', flaw: 'leaseSeconds' },
    { key: 'domain', label: 'Domain name', flaw: 'domain', hint: 'Told to clients' },
    { key: 'purpose', label: 'Purpose', flaw: 'purpose', words: true },
  ],
  Addresses: [
    { key: 'also', label: 'Further ranges', flaw: 'also', hint: 'First-last, parted by ;' },
    { key: 'exclusions', label: 'Never given', flaw: 'exclude', hint: 'First-last, parted by ;' },
    { key: 'dns', label: 'Name servers', flaw: 'dns', hint: 'Empty: the gateway' },
    { key: 'route', label: 'Default route', flaw: 'route', hint: 'Empty: the gateway; or none' },
    { key: 'ntp', label: 'Time servers', flaw: 'ntp', hint: 'Addresses, parted by ;' },
    {
      key: 'reservations',
      label: 'Reservations',
      flaw: 'reservations',
      hint: 'One a line: MAC, address, name',
      lines: true,
    },
    {
      key: 'options',
      label: 'Options by number',
      flaw: 'options',
      hint: 'One a line: 43=0x0104c0000201, 66=boot.example',
      lines: true,
    },
  ],
  IPv6: [
    { key: 'v6prefix', label: 'Prefix', flaw: 'v6', hint: 'Empty: no IPv6 here' },
    { key: 'v6gateway', label: 'Gateway address', flaw: 'v6gateway' },
    { key: 'v6range', label: 'Addresses by DHCPv6', flaw: 'v6first', hint: 'First-last; stateful only' },
  ],
};

/** The cells of one part of a segment's sheet. */
@Component({
  selector: 'il-segment-fields',
  imports: [Cell, TextCell],
  template: `
    @for (field of fields(); track field.key) {
      <il-text-cell
        [label]="field.label"
        [for]="'segment-' + field.key"
        [size]="field.lines ? 'wide' : 'plain'"
        [rows]="field.lines ? 3 : 0"
        [mono]="!field.words"
        [readonly]="readonly()"
        [hint]="words()[field.flaw] ? '' : derived().has(field.key) ? 'Derived; type to change it' : field.hint"
        [flaw]="words()[field.flaw]"
        [value]="text()[field.key]"
        (typed)="change(field.key, $event)"
      />
    }
    @if (section() === 'IPv6') {
      <il-cell label="Clients get addresses" [hint]="modeHint()">
        <div class="choices" role="group" aria-label="IPv6 addresses">
          @for (mode of modes; track mode.key) {
            <button
              type="button"
              [disabled]="readonly()"
              [attr.aria-pressed]="text().v6mode === mode.key"
              (click)="change('v6mode', mode.key)"
            >
              {{ mode.label }}
            </button>
          }
        </div>
      </il-cell>
    }
  `,
  styles: ':host { display: contents; } .choices { flex-wrap: wrap; }',
})
export class SegmentFields {
  readonly text = input.required<SegmentText>();
  readonly section = input<Exclude<Section, OwnForm>>('Segment');
  readonly flaws = input<readonly Flaw[]>([]);
  /** Fields that nobody typed into. */
  readonly derived = input<ReadonlySet<keyof SegmentText>>(new Set());
  readonly readonly = input(false);
  readonly changed = output<Partial<SegmentText>>();
  protected readonly modes = [
    { key: 'slaac', label: 'themselves', hint: 'Router advertisements alone (SLAAC); names are asked over IPv4.' },
    {
      key: 'stateless',
      label: 'themselves, with name servers',
      hint: 'Router advertisements, and name servers by stateless DHCPv6.',
    },
    { key: 'stateful', label: 'given', hint: 'Addresses by DHCPv6 from the range.' },
  ] as const;
  protected readonly modeHint = computed(() => this.modes.find((mode) => mode.key === this.text().v6mode)!.hint);
  protected readonly fields = computed(() => FIELDS[this.section()]);
  protected readonly words = computed(() => {
    const words: Record<string, string> = {};
    for (const { field, message } of this.flaws())
      if (field) words[field] = words[field] ? `${words[field]} ${message}` : message;
    return words;
  });

  protected change(key: keyof SegmentText, value: string): void {
    this.changed.emit({ [key]: value });
  }
}

/** Which part of the sheet shows a field. */
export function sectionOf(field: string | undefined): Section {
  if (field === 'from') return 'Served from';
  for (const section of ['Segment', 'Addresses', 'IPv6'] as const)
    if (FIELDS[section].some((each) => each.flaw === field)) return section;
  return field?.startsWith('v6') ? 'IPv6' : 'Segment';
}
