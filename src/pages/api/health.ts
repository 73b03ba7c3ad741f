import type { APIRoute } from 'astro';
import { json } from '../../server/http/http.ts';
import { healthOf } from '../../server/start/health.ts';

/** Which of the parts are up; 503 while one is missing that nothing works without. */
export const GET: APIRoute = async () => {
  const health = await healthOf();
  return json(health, health.ok ? 200 : 503);
};
