/** Something with a name of its own. */
interface Named {
  readonly id: string;
  readonly name: string;
}

/** A way in which clients of a segment are attached: on an SSID or on cables, with a class or without. */
export interface Attached {
  /** What it is known by: this way alone first, then the SSID or `ports`, then the class. */
  readonly keys: readonly string[];
  readonly name: string;
  /** Absent on cables. */
  readonly ssid?: Named;
  /** Absent where clients have none. */
  readonly accessClass?: Named;
}

/** Names the way in which somebody is attached, on an SSID or on cables, with a class or without. */
export const attachedKey = (ssidId: string | null, classId: string | null): string =>
  `${ssidId === null ? 'ports' : ssidKey(ssidId)} ${classId === null ? 'alone' : classKey(classId)}`;
export const ssidKey = (id: string): string => `ssid ${id}`;
export const classKey = (id: string): string => `class ${id}`;

/** One way in which somebody is attached: null for cables, and for no class. */
export const attached = (ssid: Named | null, accessClass: Named | null): Attached => ({
  keys: [
    attachedKey(ssid?.id ?? null, accessClass?.id ?? null),
    ssid ? ssidKey(ssid.id) : 'ports',
    ...(accessClass ? [classKey(accessClass.id)] : []),
  ],
  name: [ssid?.name ?? 'ports', ...(accessClass ? [accessClass.name] : [])].join(', '),
  ...(ssid ? { ssid: { id: ssid.id, name: ssid.name } } : {}),
  ...(accessClass ? { accessClass: { id: accessClass.id, name: accessClass.name } } : {}),
});

/** Carried from APs of other sites: no list of this one's judges them. */
export const AFAR: Attached = { keys: ['afar alone', 'afar'], name: 'carried from other sites' };
