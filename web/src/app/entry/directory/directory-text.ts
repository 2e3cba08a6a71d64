import {
  directoryPort,
  USUAL_DIRECTORY,
  type DirectoryFields,
  type DirectorySecurity,
  type DirectoryView,
} from '@iron-lattice/core/entry';

/** What is said of a directory, as it is typed. */
export interface DirectoryText extends Omit<DirectoryFields, 'port'> {
  readonly port: string;
  /** Of the account; empty: the one that is kept stays. */
  readonly secret: string;
}

export const directoryTextOf = (view: DirectoryView | null): DirectoryText => {
  const fields = view?.fields ?? USUAL_DIRECTORY;
  return { ...fields, port: String(fields.port), secret: '' };
};

export function directoryFieldsOf({ secret: _secret, ...text }: DirectoryText): DirectoryFields {
  const [trimmed, port] = [{ ...text }, text.port.trim()];
  for (const key of ['host', 'account', 'base', 'filter', 'groupAttribute', 'groupBase', 'groupFilter'] as const)
    trimmed[key] = trimmed[key].trim();
  return { ...trimmed, port: /^\d{1,5}$/.test(port) ? Number(port) : 0 };
}

/** Another way to encrypt, with the port that is usual for it where the one before was. */
export const securityChange = (text: DirectoryText, security: DirectorySecurity): Partial<DirectoryText> => ({
  security,
  ...(text.port.trim() === String(directoryPort(text.security)) ? { port: String(directoryPort(security)) } : {}),
});
