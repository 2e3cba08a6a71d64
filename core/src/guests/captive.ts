/** How far a guest is let in. */
export interface GuestAccess {
  readonly letIn: boolean;
  /** Until when, in milliseconds since 1970; null: without an end. */
  readonly until: number | null;
  /** Octets that are left; null: there is no limit. */
  readonly left: number | null;
}

/** What is said of that to the guest’s device (RFC 8908 §5); times in seconds. */
export interface CaptiveAnswer {
  readonly captive: boolean;
  readonly 'seconds-remaining'?: number;
  readonly 'bytes-remaining'?: number;
  /** The page to sign in at, and one of the house; both by HTTPS. */
  readonly 'user-portal-url'?: string;
  readonly 'venue-info-url'?: string;
}

/** The media type of it (RFC 8908 §5). */
export const CAPTIVE_TYPE = 'application/captive+json';

/** Whether a guest’s device is held back, and if not for how long it is let through. What is left is told only of one that is. */
export function captiveAnswer({ letIn, until, left }: GuestAccess, now: number): CaptiveAnswer {
  const captive = !letIn || (until !== null && now >= until) || (left !== null && left <= 0);
  if (captive) return { captive };
  return {
    captive,
    ...(until === null ? {} : { 'seconds-remaining': Math.floor((until - now) / 1000) }),
    ...(left === null ? {} : { 'bytes-remaining': left }),
  };
}
