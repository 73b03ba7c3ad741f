import { reads } from '../../../../server/http.ts';
import { termsProgress } from '../../../../server/terms/words.ts';

/** How far the sums over terms are that somebody waits for. */
export const GET = reads(() => termsProgress());
