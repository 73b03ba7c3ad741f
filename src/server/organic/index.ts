/** Ranks without ads, what ads have to do with them, and what they sell. */

export { organicFollowing, organicProduct, organicProducts, rankWorths } from './organic.ts';
