import type { MapLane } from '../../answers/lanes.ts';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { MapAdGroup } from '../../core/lanes/flow.ts';
import { noSums } from '../../core/metrics/figures.ts';
import { layOutMap, nameOf, nodeHeight } from './layout.ts';

const group = (id: string, sku: string | null, research: boolean, spend = 0): MapAdGroup => ({
  id,
  name: id,
  campaign: id,
  sku,
  automatic: false,
  research,
  enabled: true,
  archived: false,
  sums: { ...noSums, spend },
});
const lane = (source: string, destination: string) => ({ source, destination, kind: 'keyword' }) as MapLane;

describe('where ad groups stand on the map', () => {
  test('research at the left, what it leads to at the right, the most spend first', () => {
    const groups = [
      group('exact', 'LID', false, 5),
      group('auto', 'LID', true, 1),
      group('broad', 'LID', true, 9),
    ];
    const { nodes, blocks } = layOutMap(groups, [lane('auto', 'exact'), lane('broad', 'exact')], {}, 900);
    expect(['auto', 'broad', 'exact'].map((id) => nodes.get(id)!.column)).toEqual([0, 0, 1]);
    expect(nodes.get('broad')!.y).toBeLessThan(nodes.get('auto')!.y);
    expect(nodes.get('exact')!.x).toBeGreaterThan(nodes.get('auto')!.x);
    expect(blocks).toHaveLength(1);
  });

  test('research that is led to itself stands in the middle', () => {
    const groups = [group('auto', 'LID', true), group('broad', 'LID', true), group('exact', 'LID', false)];
    const { nodes } = layOutMap(groups, [lane('auto', 'broad'), lane('broad', 'exact')], {}, 900);
    expect(['auto', 'broad', 'exact'].map((id) => nodes.get(id)!.column)).toEqual([0, 1, 2]);
  });

  test('lanes in a circle are laid out all the same', () => {
    const groups = [group('a', 'LID', true), group('b', 'LID', true)];
    const { nodes } = layOutMap(groups, [lane('a', 'b'), lane('b', 'a')], {}, 900);
    expect(nodes.size).toBe(2);
  });

  test('a product without research has nothing to send and no block; products stand by name', () => {
    const groups = [group('a', 'LID', true), group('b', 'JAR', true), group('c', 'POT', false)];
    const { blocks } = layOutMap(groups, [], { LID: 'Airlock lids', JAR: 'Wide jars' }, 900);
    expect(blocks.map(({ sku }) => sku)).toEqual(['LID', 'JAR']);
    expect(nameOf(null, {})).toBe('No product');
    expect(nameOf('POT', {})).toBe('POT');
  });

  test('whatever is laid out, nothing lies upon another and all stands within the width', () => {
    const told = fc.array(
      fc.record({ sku: fc.constantFrom('A', 'B', null), research: fc.boolean(), spend: fc.nat(100) }),
      { minLength: 1, maxLength: 14 },
    );
    const links = fc.array(fc.tuple(fc.nat(13), fc.nat(13)), { maxLength: 14 });
    fc.assert(
      fc.property(told, links, fc.integer({ min: 500, max: 1600 }), (list, pairs, width) => {
        const groups = list.map(({ sku, research, spend }, i) => group(String(i), sku, research, spend));
        const lanes = pairs
          .filter(([a, b]) => a !== b && a < groups.length && b < groups.length)
          .map(([a, b]) => lane(String(a), String(b)));
        const { nodes, nodeWidth, height } = layOutMap(groups, lanes, {}, width);
        const placed = [...nodes.values()];
        for (const one of placed) {
          expect(one.x).toBeGreaterThanOrEqual(0);
          expect(one.y + nodeHeight).toBeLessThanOrEqual(height);
          for (const other of placed) {
            if (one === other || one.column !== other.column) continue;
            expect(Math.abs(one.y - other.y)).toBeGreaterThanOrEqual(nodeHeight);
          }
        }
        expect(nodeWidth).toBeGreaterThanOrEqual(150);
      }),
    );
  });
});
