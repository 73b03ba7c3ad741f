import { join } from 'node:path';
import { config } from '../config.ts';

/** The folder of an account's files: uploads, rejected rows, what jobs put aside. */
export const filesOf = (accountId: number): string => join(config.dataDir, `account-${accountId}`);
