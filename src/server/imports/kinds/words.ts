/** A word of a fixed list as it is kept: small, with underscores. */
export const words = (text: string): string =>
  text
    .toLowerCase()
    .trim()
    .replace(/[\s-]+/g, '_');
