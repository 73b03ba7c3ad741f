/** What sheets were said to do, and what they did. */

export { forecastLedger } from './forecasts.ts';
