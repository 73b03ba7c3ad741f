import { describe, expect, test } from 'vitest';
import { isSummary, mapHeaders, missingColumns, foldHeader } from '../files/columns.ts';
import { fileKindNames, fileKinds, recogniseKind } from './index.ts';

const columnsOf = (kind: (typeof fileKindNames)[number]) => fileKinds[kind].columns;

describe('kinds of files', () => {
  test.each(fileKindNames)(
    '%s: by its own headers it is recognised, and each feeds its own column',
    (kind) => {
      const columns = columnsOf(kind);
      const headers = columns.map(({ name }) => name);
      expect(recogniseKind(headers)).toBe(kind);
      const mapping = mapHeaders(columns, headers);
      expect(Object.values(mapping)).toEqual(headers.map((_, at) => at));
      expect(missingColumns(columns, mapping)).toEqual([]);
    },
  );

  test.each(fileKindNames)('%s: any order, case and units in brackets', (kind) => {
    const columns = columnsOf(kind);
    const headers = columns.map(({ name }) => `${name.replaceAll('_', ' ').toUpperCase()} (any)`).reverse();
    expect(recogniseKind(headers)).toBe(kind);
    const last = columns.length - 1;
    expect(Object.values(mapHeaders(columns, headers))).toEqual(columns.map((_, at) => last - at));
  });

  test.each(fileKindNames)('%s: without a required column it is said which', (kind) => {
    const columns = columnsOf(kind);
    for (const { name, synonyms } of columns.filter(({ required }) => required)) {
      const others = columns.filter((one) => one.name !== name).map((one) => one.name);
      const mapping = mapHeaders(columns, others);
      // Another column's own name is never taken for a synonym.
      expect(mapping[name], `${name} of ${kind}`).toBeNull();
      // A span stands for the day: see below.
      const spans = name === 'date' && others.includes('start_date');
      expect(missingColumns(columns, mapping)).toEqual(spans ? [] : [name]);
      for (const synonym of synonyms) {
        const place = mapHeaders(columns, [...others, synonym])[name];
        expect([null, others.length], `${synonym} for ${name} of ${kind}`).toContain(place);
      }
    }
  });

  test.each(fileKindNames)(
    '%s: no header feeds two columns, and no synonym is a column of the kind twice',
    (kind) => {
      const columns = columnsOf(kind);
      expect(new Set(columns.map(({ name }) => name)).size).toBe(columns.length);
      const headers = columns.flatMap(({ name, synonyms }) => [name, ...synonyms]);
      const taken = Object.values(mapHeaders(columns, headers)).filter((at) => at !== null);
      expect(new Set(taken).size).toBe(taken.length);
    },
  );

  test('a span of days stands for a day where rows may tell one, and nowhere else', () => {
    const headers = (kind: (typeof fileKindNames)[number]) =>
      columnsOf(kind)
        .map(({ name }) => name)
        .filter((name) => name !== 'date');
    for (const kind of ['targets-daily', 'terms-daily', 'placements-daily'] as const) {
      const mapping = mapHeaders(columnsOf(kind), headers(kind));
      expect(isSummary(mapping)).toBe(true);
      expect(missingColumns(columnsOf(kind), mapping)).toEqual([]);
      expect(fileKinds[kind].openSummary).toBeDefined();
    }
    for (const kind of ['campaign-hours', 'products-daily', 'ranks-daily', 'sold-daily'] as const) {
      const mapping = mapHeaders(columnsOf(kind), headers(kind));
      expect(isSummary(mapping)).toBe(false);
      expect(missingColumns(columnsOf(kind), mapping)).toEqual(['date']);
      expect(fileKinds[kind].openSummary).toBeUndefined();
    }
  });

  test('headers of other words: German, short, with punctuation', () => {
    const headers = [
      'Datum',
      'Kampagne',
      'Anzeigengruppe',
      'Keyword',
      'Suchbegriff',
      'Impressionen',
      'Klicks',
      'Kosten (EUR)',
    ];
    expect(recogniseKind(headers)).toBe('terms-daily');
    expect(mapHeaders(columnsOf('terms-daily'), headers)).toMatchObject({
      date: 0,
      campaign: 1,
      ad_group: 2,
      target: 3,
      term: 4,
      impressions: 5,
      clicks: 6,
      spend: 7,
      orders: null,
    });
    expect(recogniseKind(['sheet', 'of', 'nothing', 'known'])).toBeNull();
    expect(recogniseKind([])).toBeNull();
  });

  test('what does not matter in a header', () => {
    expect(foldHeader('  Ad-Group_Name [EUR] ')).toBe('ad group name');
    expect(foldHeader('Spend (EUR)')).toBe('spend');
    expect(foldHeader('Ｃｌｉｃｋｓ')).toBe('clicks');
  });
});
