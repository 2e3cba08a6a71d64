/** What a picture of a portal is for: its sign above the words, or what stands behind them. */
export const PICTURE_USES = ['logo', 'backdrop'] as const;
export type PictureUse = (typeof PICTURE_USES)[number];

/** A picture of a portal, as it is kept: cleaned, and as large as it is shown. */
export interface Picture {
  /** SHA-256 of its octets, as 64 hexadecimal digits. */
  readonly id: string;
  /** In pixels. */
  readonly width: number;
  readonly height: number;
}

/** What became of a picture that somebody brought. */
export interface PictureMade {
  readonly picture: Picture;
  /** Octets of it as it is kept. */
  readonly octets: number;
  /** What was brought: its kind, its size in pixels and its octets. */
  readonly was: {
    readonly kind: 'png' | 'jpeg' | 'svg';
    readonly width: number;
    readonly height: number;
    readonly octets: number;
  };
  /** Whether guests see it smaller than it was brought. */
  readonly scaled: boolean;
}

/** Most pixels of each side, twice what phones show, and most octets: a page of a portal has 60 KB at most, pictures and all. */
export const PICTURE_SIZE = {
  logo: { width: 640, height: 256, octets: 20_000 },
  backdrop: { width: 1280, height: 1280, octets: 30_000 },
} as const satisfies Record<PictureUse, { width: number; height: number; octets: number }>;

/** Octets of a picture that is brought, and pixels of it. */
export const [MOST_PICTURE, MOST_PIXELS] = [20_000_000, 100_000_000];
/** Most pictures of an estate. */
export const MOST_PICTURES = 2000;

export const isPictureId = (text: string): boolean => /^[0-9a-f]{64}$/.test(text);
