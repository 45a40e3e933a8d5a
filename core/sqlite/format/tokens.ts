/** Tokens of the SQL that `sqlite_schema` keeps. Only what declarations need. */
export interface Token {
  kind: 'word' | 'name' | 'text' | 'number' | 'blob' | 'mark';
  /** Unquoted content for names and texts; the source text elsewhere. */
  text: string;
}

const QUOTES: Record<string, { close: string; kind: 'name' | 'text' }> = {
  '"': { close: '"', kind: 'name' },
  '`': { close: '`', kind: 'name' },
  '[': { close: ']', kind: 'name' },
  "'": { close: "'", kind: 'text' }
};

/** Cuts SQL into tokens; comments and blanks go. Never throws: an open quote runs to the end. */
export function tokenize(sql: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  while (at < sql.length) {
    const skipped = skipBlank(sql, at);
    if (skipped > at) {
      at = skipped;
      continue;
    }
    const [token, next] = nextToken(sql, at);
    tokens.push(token);
    at = next;
  }
  return tokens;
}

function skipBlank(sql: string, at: number): number {
  if (/\s/.test(sql[at]!)) return at + 1;
  if (sql.startsWith('--', at)) {
    const end = sql.indexOf('\n', at);
    return end < 0 ? sql.length : end + 1;
  }
  if (sql.startsWith('/*', at)) {
    const end = sql.indexOf('*/', at + 2);
    return end < 0 ? sql.length : end + 2;
  }
  return at;
}

function nextToken(sql: string, at: number): [Token, number] {
  const quote = QUOTES[sql[at]!];
  if (quote) return quoted(sql, at, quote.close, quote.kind);
  const rest = sql.slice(at, at + 256);
  const blob = /^[xX]'([0-9a-fA-F]*)'/.exec(rest);
  if (blob) return [{ kind: 'blob', text: blob[1]! }, at + blob[0].length];
  const number = /^(0[xX][0-9a-fA-F]+|(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?)/.exec(rest);
  if (number) return [{ kind: 'number', text: number[0] }, at + number[0].length];
  const word = /^[\p{L}_\u0080-\uffff$][\p{L}\p{N}_\u0080-\uffff$]*/u.exec(rest);
  if (word) return [{ kind: 'word', text: word[0] }, at + word[0].length];
  return [{ kind: 'mark', text: sql[at]! }, at + 1];
}

function quoted(sql: string, at: number, close: string, kind: 'name' | 'text'): [Token, number] {
  let text = '';
  let pos = at + 1;
  while (pos < sql.length) {
    const end = sql.indexOf(close, pos);
    if (end < 0) return [{ kind, text: text + sql.slice(pos) }, sql.length];
    text += sql.slice(pos, end);
    if (close === ']' || sql[end + 1] !== close) return [{ kind, text }, end + 1];
    text += close;
    pos = end + 2;
  }
  return [{ kind, text }, sql.length];
}

export function isWord(token: Token | undefined, ...words: string[]): boolean {
  return token?.kind === 'word' && words.includes(token.text.toUpperCase());
}

export function isMark(token: Token | undefined, mark: string): boolean {
  return token?.kind === 'mark' && token.text === mark;
}

/** Whether a token can name a table or column; SQLite takes quoted texts for names too. */
export function isName(token: Token | undefined): token is Token {
  return token !== undefined && token.kind !== 'mark' && token.kind !== 'blob';
}
