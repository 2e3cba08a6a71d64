/** A colour as `#rrggbb`. */
export const isColour = (text: string): boolean => /^#[0-9a-f]{6}$/i.test(text);

type Rgb = readonly [red: number, green: number, blue: number];
const rgbOf = (colour: string): Rgb => [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16)) as unknown as Rgb;
const hexOf = (rgb: Rgb): string => `#${rgb.map((part) => Math.round(part).toString(16).padStart(2, '0')).join('')}`;

/** Relative luminance, 0 to 1 (WCAG 2.2, “relative luminance”, of sRGB). */
function luminance(rgb: Rgb): number {
  const [r, g, b] = rgb.map((part) => {
    const share = part / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  }) as unknown as Rgb;
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

/** How far two colours stand out from each other, 1 to 21 (WCAG 2.2, “contrast ratio”). */
export function contrastOf(a: string, b: string): number {
  const [light, dark] = [luminance(rgbOf(a)), luminance(rgbOf(b))].sort((x, y) => y - x) as [number, number];
  return (light + 0.05) / (dark + 0.05);
}

/** What text has to have at least (WCAG 2.2, 1.4.3). */
export const LEAST_CONTRAST = 4.5;

/** Black or white, whichever stands out more from a ground. */
export const inkOn = (ground: string): string =>
  contrastOf('#000000', ground) >= contrastOf('#ffffff', ground) ? '#000000' : '#ffffff';

/**
 * The colour nearest to one that can be read on a ground: mixed with black, or with white, as little as does it.
 * @returns the colour itself where it can be read already.
 */
export function readableOn(colour: string, ground: string): string {
  if (contrastOf(colour, ground) >= LEAST_CONTRAST) return colour;
  const [from, to] = [rgbOf(colour), rgbOf(inkOn(ground))];
  for (let share = 0.02; share < 1; share += 0.02) {
    const mixed = hexOf(from.map((part, i) => part + (to[i]! - part) * share) as unknown as Rgb);
    if (contrastOf(mixed, ground) >= LEAST_CONTRAST) return mixed;
  }
  return inkOn(ground);
}
