/** Decimals that a share in per cent needs. */
export const digitsOf = (share: number): number => (Number.isInteger(Math.round(share * 1e4) / 100) ? 0 : 1);
