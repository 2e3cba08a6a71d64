import type { Operation } from '../intent';

export type Severity = 'error' | 'warning' | 'info';

/** Where a finding is, in terms a screen can go to. */
export interface FindingPlace {
  readonly siteId: string;
  readonly kind:
    | 'segment'
    | 'ssid'
    | 'class'
    | 'device'
    | 'port'
    | 'pool'
    | 'rule'
    | 'guarantee'
    | 'radio'
    | 'mesh'
    | 'radius'
    | 'portal'
    | 'uplink'
    | 'course'
    | 'publication'
    | 'route'
    | 'router'
    | 'pact'
    | 'member'
    | 'pair'
    | 'translation';
  readonly id: string;
  /** Of a port or an uplink its name, of a radio its band. */
  readonly port?: string;
}

/** A computed edit of the draft that removes a finding. */
export interface Mend {
  /** Completes “Mend: …”. */
  readonly label: string;
  readonly operations: readonly Operation[];
}

/** A fault the core proves in a site. */
export interface Finding {
  /** Same for the same fault at the same place, so that lists keep their entries. */
  readonly key: string;
  readonly code: string;
  readonly severity: Severity;
  readonly message: string;
  readonly reason: string;
  readonly place: FindingPlace;
  readonly mend: Mend | null;
}

/** Orders findings for reading: by severity, then as found. */
export function bySeverity(findings: readonly Finding[]): Finding[] {
  const rank: Record<Severity, number> = { error: 0, warning: 1, info: 2 };
  return [...findings].sort((a, b) => rank[a.severity] - rank[b.severity]);
}
