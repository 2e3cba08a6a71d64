/** A point on the earth in degrees of WGS 84, north and east positive. */
export interface Coordinates {
  readonly latitude: number;
  readonly longitude: number;
}

/** Digits behind the point that are kept: about a decimetre. */
const DIGITS = 6;
const round = (degrees: number): number => Number(degrees.toFixed(DIGITS));

/** One angle as people write it: `53.3498`, `-6.26`, `53° 20' 59" N`, `6.26W`. */
const ANGLE =
  /^\s*([+-])?\s*(\d{1,3}(?:\.\d+)?)\s*°?\s*(?:(\d{1,2}(?:\.\d+)?)\s*['′]\s*)?(?:(\d{1,2}(?:\.\d+)?)\s*["″]\s*)?([NSEW])?\s*$/i;

function angle(text: string, marks: string, most: number): number | null {
  const match = ANGLE.exec(text);
  if (!match) return null;
  const [, sign, degrees, minutes = '0', seconds = '0', mark = ''] = match;
  if (mark && (sign || !marks.includes(mark.toUpperCase()))) return null;
  if (Number(minutes) >= 60 || Number(seconds) >= 60) return null;
  const value = Number(degrees) + Number(minutes) / 60 + Number(seconds) / 3600;
  if (value > most) return null;
  return round(sign === '-' || 'SW'.includes(mark.toUpperCase() || ' ') ? -value : value);
}

/** Reads latitude and longitude, parted by a comma. @returns null when they are none. */
export function readCoordinates(text: string): Coordinates | null {
  const parts = text.split(/[,;]/);
  if (parts.length !== 2) return null;
  const [latitude, longitude] = [angle(parts[0]!, 'NS', 90), angle(parts[1]!, 'EW', 180)];
  return latitude === null || longitude === null ? null : { latitude, longitude };
}

/** Coordinates as `readCoordinates` takes them, such as `53.3498, -6.2603`. */
export const writeCoordinates = ({ latitude, longitude }: Coordinates): string =>
  `${round(latitude)}, ${round(longitude)}`;
