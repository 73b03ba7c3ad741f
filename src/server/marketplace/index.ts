import { config } from '../config.ts';
import { ServiceError } from '../errors.ts';
import type { Marketplace } from './connector.ts';
import { Quayside } from './quayside.ts';

let shared: Marketplace | null = null;

/** The connected marketplace; an error that says what to do when there is none. */
export function marketplace(): Marketplace {
  if (config.quaysideUrl === '') {
    const message = 'No marketplace is connected. Set QUAYSIDE_URL, or load files instead.';
    throw new ServiceError(409, 'no_marketplace', message);
  }
  shared ??= new Quayside(config.quaysideUrl, config.quaysideSecret);
  return shared;
}

/** Whether the marketplace answers. */
export async function marketplaceState(): Promise<'up' | 'none'> {
  if (config.quaysideUrl === '') return 'none';
  await marketplace().reachable();
  return 'up';
}
