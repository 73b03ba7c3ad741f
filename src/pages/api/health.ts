import { reads } from '../../server/http.ts';

export const GET = reads(() => Promise.resolve({ ok: true }));
