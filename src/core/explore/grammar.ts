import { createToken, EmbeddedActionsParser, EOF, Lexer, tokenMatcher, type IToken } from 'chevrotain';

/**
 * What a typed condition is made of: comparisons, `not`, `and`, `or`, parentheses. What columns and values its words mean
 * is not the grammar's matter (typed.ts).
 *
 *   condition  = all { "or" all }
 *   all        = one { ("and" | ";") one }
 *   one        = "not" one | "(" condition ")" | comparison
 *   comparison = words [ sign [ words ] ]
 */

/** A run of words as it was typed, with where it begins and ends; `parts`: quoted ones are single words. */
export interface Phrase {
  text: string;
  parts: { text: string; quoted: boolean }[];
  from: number;
  to: number;
}

export type Tree =
  | { kind: 'or' | 'and'; list: Tree[] }
  | { kind: 'not'; of: Tree }
  | { kind: 'comparison'; column: Phrase; sign: string | null; value: Phrase | null };

/** Why a text is no condition, and where in it. */
export interface TextProblem {
  message: string;
  from: number;
  to: number;
}

const Word = createToken({ name: 'Word', pattern: /[^\s()"“”<>=≤≥≠;,]+(?:,\d+(?:\.\d+)?)*%?/u });
const Quoted = createToken({ name: 'Quoted', pattern: /"(?:[^"\\]|\\.)*"|“[^”]*”/u });
const keyword = (name: string, pattern: RegExp) => createToken({ name, pattern, longer_alt: Word });
const Space = createToken({ name: 'Space', pattern: /\s+/, group: Lexer.SKIPPED });
const Open = createToken({ name: 'Open', pattern: /\(/ });
const Close = createToken({ name: 'Close', pattern: /\)/ });
const Comma = createToken({ name: 'Comma', pattern: /,/ });
const And = keyword('And', /and\b|;/i);
const Or = keyword('Or', /or\b/i);
const Not = keyword('Not', /not\b/i);
const Sign = createToken({ name: 'Sign', pattern: />=|<=|≥|≤|>|<|=/ });
const WordSign = keyword(
  'WordSign',
  /(?:contains|starts\s+with|matches|has\s+words|one\s+of|is\s+empty)(?![\p{L}\p{N}_-])/iu,
);

const tokens = [Space, Quoted, Open, Close, WordSign, And, Or, Not, Sign, Comma, Word];
const lexer = new Lexer(tokens, { positionTracking: 'onlyOffset' });

const unquoted = (image: string): string => image.slice(1, -1).replace(/\\(.)/g, '$1');

class ConditionParser extends EmbeddedActionsParser {
  private text = '';

  constructor() {
    super(tokens, { recoveryEnabled: false });
    this.performSelfAnalysis();
  }

  read(text: string, input: IToken[]): Tree {
    this.text = text;
    this.input = input;
    return this.condition();
  }

  private readonly condition: () => Tree = this.RULE('condition', (): Tree => {
    const list = [this.SUBRULE(this.all)];
    this.MANY(() => {
      this.CONSUME(Or);
      list.push(this.SUBRULE2(this.all));
    });
    return list.length === 1 ? list[0]! : { kind: 'or', list };
  });

  private readonly all: () => Tree = this.RULE('all', (): Tree => {
    const list = [this.SUBRULE(this.one)];
    this.MANY(() => {
      this.CONSUME(And);
      list.push(this.SUBRULE2(this.one));
    });
    return list.length === 1 ? list[0]! : { kind: 'and', list };
  });

  private readonly one: () => Tree = this.RULE('one', (): Tree =>
    this.OR<Tree>([
      {
        ALT: () => {
          this.CONSUME(Not);
          return { kind: 'not', of: this.SUBRULE(this.one) };
        },
      },
      {
        ALT: () => {
          this.CONSUME(Open);
          const inside = this.SUBRULE(this.condition);
          this.CONSUME(Close);
          return inside;
        },
      },
      { ALT: () => this.SUBRULE(this.comparison) },
    ]),
  );

  private readonly comparison: () => Tree = this.RULE('comparison', (): Tree => {
    const column = this.SUBRULE(this.phrase);
    let sign: string | null = null;
    let value: Phrase | null = null;
    this.OPTION(() => {
      const token = this.OR([{ ALT: () => this.CONSUME(Sign) }, { ALT: () => this.CONSUME(WordSign) }]);
      this.ACTION(() => {
        sign = token.image.toLowerCase().replace(/\s+/g, ' ');
      });
      this.OPTION2(() => {
        value = this.SUBRULE2(this.phrase);
      });
    });
    return { kind: 'comparison', column, sign, value };
  });

  private readonly phrase: () => Phrase = this.RULE('phrase', (): Phrase => {
    const found: IToken[] = [];
    this.AT_LEAST_ONE(() => {
      found.push(
        this.OR([
          { ALT: () => this.CONSUME(Word) },
          { ALT: () => this.CONSUME(Quoted) },
          { ALT: () => this.CONSUME(Comma) },
        ]),
      );
    });
    return this.ACTION(() => this.phraseOf(found));
  });

  private phraseOf(found: IToken[]): Phrase {
    const from = found[0]!.startOffset;
    const last = found[found.length - 1]!;
    const to = last.startOffset + last.image.length;
    const parts = found.map((token) => {
      const quoted = tokenMatcher(token, Quoted);
      return { text: quoted ? unquoted(token.image) : token.image, quoted };
    });
    return { text: this.text.slice(from, to), parts, from, to };
  }
}

let parser: ConditionParser | null = null;

/** The structure of a typed condition, or what keeps it from being one. */
export function parseCondition(text: string): { tree: Tree } | { problem: TextProblem } {
  const lexed = lexer.tokenize(text);
  const strange = lexed.errors[0];
  if (strange) {
    const sign = text.slice(strange.offset, strange.offset + strange.length);
    const message = /["“”]/.test(sign) ? 'A quotation mark stands alone.' : `“${sign}” means nothing here.`;
    return { problem: { message, from: strange.offset, to: strange.offset + strange.length } };
  }
  parser ??= new ConditionParser();
  const tree = parser.read(text, lexed.tokens);
  const [error] = parser.errors;
  if (!error) return { tree };
  const at = error.token;
  const isEnd = at.tokenType === EOF;
  const from = isEnd ? text.length : at.startOffset;
  return {
    problem: {
      message: messageOf(error.name, at, isEnd),
      from,
      to: isEnd ? text.length : at.startOffset + at.image.length,
    },
  };
}

function messageOf(name: string, { image, tokenType }: IToken, isEnd: boolean): string {
  if (isEnd)
    return name === 'MismatchedTokenException'
      ? 'A parenthesis is not closed.'
      : 'Something is missing: a column, a sign, a value.';
  if (tokenType === Close) return 'This parenthesis closes nothing, or has nothing in it.';
  if (tokenType === And || tokenType === Or) return `Before “${image}” a condition is missing.`;
  return `“${image}” is not expected here.`;
}
