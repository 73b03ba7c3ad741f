import { reads } from '../../../../server/http/http.ts';
import { termsProgress } from '../../../../server/terms/index.ts';

/** How far the sums over terms are that somebody waits for. */
export const GET = reads(() => termsProgress());
