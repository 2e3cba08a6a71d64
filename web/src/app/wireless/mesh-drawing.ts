import { Component, computed, input, output } from '@angular/core';
import type { Band } from '@iron-lattice/core/hardware';

/** A link by radio as it is drawn: from an AP to the one it hangs on. */
export interface DrawnHang {
  readonly id: string;
  readonly parentId: string;
  readonly band: Band;
  /** In dBm; null: not known. */
  readonly signal: number | null;
  /** TCP in Mb/s that all behind it share, and what of this hop's speed is lost to others of its way, from 0 to 1. */
  readonly way: number | null;
  readonly lost: number | null;
  /** Only when its cable fails. */
  readonly standby: boolean;
}

interface Node {
  readonly id: string;
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly root: boolean;
}
interface Line {
  readonly key: string;
  readonly path: string;
  readonly x: number;
  readonly y: number;
  readonly signal: string;
  readonly speed: string;
  readonly words: string;
  readonly standby: boolean;
  readonly weak: boolean;
}

/** Boxes: from one hop to the next, from row to row, and the box itself. */
const [STEP, ROW, WIDE, HIGH] = [250, 44, 96, 28];
/** Signal in dBm below which a link is weak. */
const SOUND = -70;

/** Who hangs on whom by radio: from the APs on cables outwards, each hop with its signal and what is left of the speed. */
@Component({
  selector: 'il-mesh-drawing',
  template: `
    <svg
      [attr.viewBox]="'0 0 ' + size().width + ' ' + size().height"
      [attr.width]="size().width"
      [attr.height]="size().height"
      role="img"
      [attr.aria-label]="words()"
    >
      @for (line of drawn().lines; track line.key) {
        <path [attr.d]="line.path" [class.standby]="line.standby" [class.weak]="line.weak" />
        <text [attr.x]="line.x" [attr.y]="line.y - 5">{{ line.signal }}</text>
        <text [attr.x]="line.x" [attr.y]="line.y + 13" class="soft">{{ line.speed }}</text>
      }
      @for (node of drawn().nodes; track node.id) {
        <g [attr.transform]="'translate(' + node.x + ' ' + node.y + ')'" (click)="picked.emit(node.id)">
          <rect [attr.width]="wide" [attr.height]="high" [class.root]="node.root" />
          <text [attr.x]="wide / 2" [attr.y]="high / 2 + 4" text-anchor="middle" class="name">{{ node.name }}</text>
        </g>
      }
    </svg>
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
      padding: 4px 14px;
    }
    path {
      fill: none;
      stroke: var(--iron);
      stroke-width: 2;
    }
    path.standby {
      stroke: var(--strong);
      stroke-dasharray: 5 4;
    }
    path.weak {
      stroke: var(--caution);
    }
    rect {
      fill: var(--sheet);
      stroke: var(--strong);
    }
    rect.root {
      stroke: var(--ink);
      stroke-width: 2;
    }
    g {
      cursor: pointer;
    }
    text {
      font:
        500 11px 'JetBrains Mono',
        monospace;
      fill: var(--ink);
    }
    text.soft {
      fill: var(--soft);
    }
    text.name {
      font-size: 12px;
    }
  `,
})
export class MeshDrawing {
  readonly hangs = input.required<readonly DrawnHang[]>();
  readonly names = input.required<ReadonlyMap<string, string>>();
  /** An AP's box was pressed. */
  readonly picked = output<string>();
  protected readonly wide = WIDE;
  protected readonly high = HIGH;
  protected readonly drawn = computed(() => this.lay(this.hangs()));
  protected readonly size = computed(() => {
    const { nodes } = this.drawn();
    return {
      width: Math.max(0, ...nodes.map(({ x }) => x)) + WIDE + 4,
      height: Math.max(0, ...nodes.map(({ y }) => y)) + HIGH + 4,
    };
  });
  protected readonly words = computed(() =>
    this.drawn()
      .lines.map(({ words }) => words)
      .join('; '),
  );

  private lay(hangs: readonly DrawnHang[]): { readonly nodes: readonly Node[]; readonly lines: readonly Line[] } {
    const name = (id: string): string => this.names().get(id) ?? '?';
    const children = new Map<string, DrawnHang[]>();
    for (const hang of hangs) children.set(hang.parentId, [...(children.get(hang.parentId) ?? []), hang]);
    const sure = new Set(hangs.flatMap(({ id, standby }) => (standby ? [] : [id])));
    const roots = [...children.keys()].filter((id) => !sure.has(id)).sort((a, b) => (name(a) < name(b) ? -1 : 1));
    const nodes: Node[] = [];
    const lines: Line[] = [];
    let row = 0;
    const place = (id: string, hop: number): Node => {
      const node: Node = { id, name: name(id), x: hop * STEP + 2, y: row * ROW + 2, root: hop === 0 };
      nodes.push(node);
      const below = (children.get(id) ?? []).filter((hang) => !hang.standby || hop === 0);
      below.sort((a, b) => (name(a.id) < name(b.id) ? -1 : 1));
      below.forEach((hang, i) => {
        if (i > 0) row++;
        // What only hangs there when its cable fails has a place of its own.
        const child = hang.standby ? { x: (hop + 1) * STEP + 2, y: row * ROW + 2 } : place(hang.id, hop + 1);
        if (hang.standby) nodes.push({ id: hang.id, name: name(hang.id), root: false, ...child });
        lines.push(lineOf(hang, node, child, name));
      });
      return node;
    };
    for (const id of roots) {
      place(id, 0);
      row++;
    }
    return { nodes, lines };
  }
}

function lineOf(
  hang: DrawnHang,
  from: { readonly x: number; readonly y: number },
  to: { readonly x: number; readonly y: number },
  name: (id: string) => string,
): Line {
  const { signal, way, lost, standby, band } = hang;
  const [x1, y1, x2, y2] = [from.x + WIDE, from.y + HIGH / 2, to.x, to.y + HIGH / 2];
  const bend = x1 + 18;
  const heard = signal === null ? 'signal not known' : `${signal} dBm`;
  const left = way === null ? '' : `${Math.round(way)} Mb/s`;
  const less = lost !== null && lost >= 0.005 ? `, −${Math.round(lost * 100)} %` : '';
  const how = standby ? ', when its cable fails' : '';
  return {
    key: `${hang.id} ${hang.parentId}`,
    path: `M${x1} ${y1}H${bend}V${y2}H${x2}`,
    x: bend + 8,
    y: y2,
    signal: `${heard} · ${band} GHz`,
    speed: left + less,
    words: `${name(hang.id)} hangs on ${name(hang.parentId)} at ${band} GHz, ${heard}${left ? `, ${left}` : ''}${less}${how}`,
    standby,
    weak: signal !== null && signal < SOUND && !standby,
  };
}
