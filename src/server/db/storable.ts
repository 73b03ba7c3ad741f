/** What Postgres keeps of a text: it takes neither NUL nor half of a surrogate pair. */
export const storableText = (text: string): string =>
  /[\u0000\ud800-\udfff]/.test(text) ? Buffer.from(text.replaceAll('\u0000', '␀')).toString() : text;

/** A value as it can be kept as JSON: every text in it storable. */
export const storable = (value: unknown): unknown =>
  value === undefined
    ? null
    : JSON.parse(JSON.stringify(value), (_, one: unknown) =>
        typeof one === 'string' ? storableText(one) : one,
      );
