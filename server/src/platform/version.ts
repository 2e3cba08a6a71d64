/** Version of this controller. */
export const VERSION = '0.1.0';
