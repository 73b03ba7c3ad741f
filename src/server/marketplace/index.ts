/** The marketplace that an account is connected to. */

export { marketplaceOf } from './connection.ts';
