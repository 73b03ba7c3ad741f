import { forecastLedger } from '../../../server/forecasts/index.ts';
import { readsKept } from '../../../server/http/http.ts';

/** The forecast ledger: said against seen by kind, the last 200, and the weekly grades of the model. */
export const GET = readsKept(({ accountId }) => forecastLedger(accountId));
