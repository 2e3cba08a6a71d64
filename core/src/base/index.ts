export * from './flaw';
export * from './secret-ref';
export * from './session.contract';
export * from './password';
export * from './list-columns';
export * from './spreadsheet-damage';
export * from './plain-text';
export * from './list-cell';
