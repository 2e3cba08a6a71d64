/** What a portal’s pages may begin with: a ground, and what is pressed, that can be read on each other. */
export interface Design {
  readonly name: string;
  readonly ground: string;
  readonly accent: string;
}

/** Each passes the contrast that is asked of links and buttons. */
export const DESIGNS: readonly Design[] = [
  { name: 'Paper', ground: '#f4f1ea', accent: '#8c2f1b' },
  { name: 'Morning', ground: '#ffffff', accent: '#1f5a8a' },
  { name: 'Harbour', ground: '#e4eef0', accent: '#0c5560' },
  { name: 'Moss', ground: '#f1f4e6', accent: '#3f5d14' },
  { name: 'Night watch', ground: '#14202b', accent: '#f2c14e' },
  { name: 'Galley', ground: '#2b1d16', accent: '#ffb38a' },
];
