import type { Flaw } from '@iron-lattice/core/base';

/** HTTP status by code; a code that is not here must not be thrown. */
const STATUS = {
  'input.invalid': 400,
  'session.none': 401,
  'session.wrong': 401,
  'session.forbidden': 403,
  'session.cross-site': 403,
  'thing.unknown': 404,
  'draft.moved': 409,
  'draft.refused': 422,
  'draft.not-open': 409,
  'draft.nothing': 409,
  'draft.misfits': 409,
  'ring.refused': 422,
  'secret.hidden': 403,
  'ring.changed': 409,
  'user.refused': 422,
  'user.changed': 409,
  'certificate.refused': 422,
  'directory.refused': 422,
  'directory.changed': 409,
  'code.refused': 422,
  'visit.over': 409,
  'rehearsal.refused': 422,
  'router.not-live': 409,
  'client.refused': 422,
  'client.changed': 409,
  'site.refused': 422,
  'claim.refused': 422,
  'list.refused': 422,
  'branches.moved': 409,
  'site.named': 409,
  'sheet.refused': 422,
  'device.refused': 422,
  'device.updating': 409,
  'device.stale': 409,
  'site.stale': 409,
  'replace.refused': 422,
  'replace.losses': 409,
  'command.refused': 422,
  'sweep.refused': 422,
  'scan.refused': 422,
  'sweep.over': 409,
  'scan.over': 409,
  'plan.refused': 409,
  'plan.left': 409,
  'firmware.refused': 422,
  'firmware.over': 409,
  'estate.none': 409,
  'set-up.refused': 422,
  'set-up.done': 409,
  'upload.large': 413,
  'host.other': 421,
  'rollout.findings': 409,
  'rollout.guarantee': 409,
  'rollout.drift': 409,
  'rollout.lock-out': 409,
  'rollout.empty': 409,
  'rollout.busy': 409,
  'rollout.over': 409,
  'rollout.waves': 422,
  'rollout.moved': 409,
  'rollout.left': 409,
  'device.silent': 409,
  'device.no-answer': 504,
  'session.too-many': 429,
  'stream.many': 429,
  'receptionist.refused': 422,
  'mail.flawed': 422,
  'mail.none': 409,
  'mail.changed': 409,
  'mail.many': 429,
  'picture.refused': 422,
  'texts.flawed': 422,
  'texts.none': 409,
  'texts.changed': 409,
  'receptionist.changed': 409,
  'controller.busy': 503,
  'database.away': 503,
  'disk.full': 507,
} as const;
export type ErrorCode = keyof typeof STATUS;

/** A refused request: the one kind of error whose words reach the person who asked. */
export class AppError extends Error {
  readonly status: number;
  /** Seconds after which it may be tried again, where that is known. */
  retrySeconds?: number;

  /** @param flaws what is wrong, piece by piece, where there is more to say than the sentence. */
  constructor(
    readonly code: ErrorCode,
    message: string,
    readonly flaws: readonly Flaw[] = [],
  ) {
    super(message);
    this.status = STATUS[code];
  }
}

/** The same error with word of when to try again. */
export const after = (seconds: number, error: AppError): AppError => Object.assign(error, { retrySeconds: seconds });

/** The error for something that is not there. */
export const unknown = (what: string): AppError => new AppError('thing.unknown', `There is no such ${what}.`);
