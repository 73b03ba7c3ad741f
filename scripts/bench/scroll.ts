import { chromium, type Page } from '@playwright/test';
import type { Measure } from './measure.ts';
import { chromiumFlags, chromiumPath } from '../lib/packages.ts';
import type { Running } from '../lib/processes.ts';

/** Scrolls a table by so many pixels a frame: p95 of its frames and of the page at rest, milliseconds. */
export async function scrollTable(page: Page, table: string, pixels: number) {
  // The script below is compiled with names kept; the page has no helper for that.
  await page.evaluate('globalThis.__name = (f) => f');
  return page.evaluate(
    async ([selector, step]) => {
      const frame = () => new Promise<number>((done) => requestAnimationFrame(done));
      const take = async (move: () => void) => {
        const times: number[] = [];
        let last = await frame();
        for (let i = 0; i < 240; i++) {
          move();
          const now = await frame();
          times.push(now - last);
          last = now;
        }
        times.sort((a, b) => a - b);
        return times[Math.floor(times.length * 0.95)]!;
      };
      const element = document.querySelector(selector)!;
      const still = await take(() => undefined);
      const scrolling = await take(() => element.scrollBy(0, step));
      return { still, scrolling, rows: Number(element.getAttribute('aria-rowcount')) };
    },
    [table, pixels] as const,
  );
}

/** Scrolls the queue of the big account in Chromium and takes the time of every frame. */
export async function scrollFindings(app: Running): Promise<Measure[]> {
  const browser = await chromium.launch({
    executablePath: chromiumPath(),
    args: chromiumFlags,
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${app.url}/round?from=2026-10-18&to=2026-11-16&queue=targets`);
    await page.locator('[role=row][data-key]').first().waitFor({ timeout: 120_000 });
    const measured = await scrollTable(page, '[role=grid]', 240);
    const found = measured.rows - 1;
    return [
      {
        name: 'scroll-findings',
        value: measured.scrolling,
        unit: `ms a frame, p95, ${found} findings`,
        reference: `the page at rest (${measured.still.toFixed(1)} ms)`,
        ratio: measured.scrolling / measured.still,
        aim: 'as at rest',
      },
    ];
  } finally {
    await browser.close();
  }
}
