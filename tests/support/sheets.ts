import type { LinePage, OpenSheet, SheetDetail, SheetLine } from '../../src/answers/changes.ts';
import { callApi } from '../../scripts/lib/processes.ts';

const most = 1000;

/** All lines of a list of lines, page by page. */
async function allLines(url: string, path: string): Promise<SheetLine[]> {
  const lines: SheetLine[] = [];
  for (let from = 0; ; from += most) {
    const page = await callApi<LinePage>(url, 'GET', `${path}?from=${from}&count=${most}`);
    for (const entry of page.entries) if ('line' in entry) lines.push(entry.line);
    if (from + most >= page.total) return lines;
  }
}

/** The open sheet with all its lines. */
export async function openSheetOf<T = { sheetId: number; lines: SheetLine[] }>(
  url: string,
  account: number | string = 1,
): Promise<T> {
  const sheet = await callApi<OpenSheet>(url, 'GET', `/api/${account}/sheet`);
  const lines = await allLines(url, `/api/${account}/sheet/lines`);
  return { ...sheet, lines } as T;
}

/** A sheet of the ledger with all its lines. */
export async function sentSheetOf<T = { sheet: { state: string }; lines: SheetLine[] }>(
  url: string,
  sheetId: number,
  account: number | string = 1,
): Promise<T> {
  const detail = await callApi<SheetDetail>(url, 'GET', `/api/${account}/ledger/${sheetId}`);
  const lines = await allLines(url, `/api/${account}/ledger/${sheetId}/lines`);
  return { ...detail, lines } as T;
}
