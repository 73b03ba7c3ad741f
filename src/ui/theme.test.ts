import { hsl, rgb } from 'd3';
import { expect, test } from 'vitest';
import { roles } from './theme.ts';

/** Relative luminance of a colour, 0 to 1 (WCAG 2.2). */
function luminance(color: string): number {
  const { r, g, b } = rgb(color);
  const [red, green, blue] = [r, g, b]
    .map((part) => part / 255)
    .map((part) => (part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4)) as [
    number,
    number,
    number,
  ];
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue;
}

const contrast = (a: string, b: string): number => {
  const [low, high] = [luminance(a), luminance(b)].sort((x, y) => x - y) as [number, number];
  return (high + 0.05) / (low + 0.05);
};

test.each(['light', 'dark'] as const)(
  '%s: every text keeps 4.5:1 on every ground it may stand on',
  (mode) => {
    const role = roles[mode];
    for (const text of ['ink', 'soft', 'accent', 'under', 'over', 'graphite'] as const)
      for (const ground of ['ground', 'surface', 'panel', 'wash'] as const)
        expect(contrast(role[text], role[ground]), `${text} on ${ground}`).toBeGreaterThanOrEqual(4.5);
  },
);

test.each(['light', 'dark'] as const)('%s: the row in focus and the verdicts can be told apart', (mode) => {
  const role = roles[mode];
  expect(role.wash).not.toBe(role.surface);
  // Blue and clay lie far apart in lightness or hue; shape says it as well.
  expect(Math.abs(hsl(role.under).h - hsl(role.over).h)).toBeGreaterThan(120);
});
