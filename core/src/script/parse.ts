/**
 * A recursive-descent parser for Lua 5.4 (Reference Manual §3.3, §3.4 and §9). It judges syntax with the
 * position of the first error, and collects what the rest of the application asks of a script: which
 * functions it defines, which names it calls and which globals it mentions.
 */

import { LuaSyntaxError, tokenise, type Token } from './lexer.ts';

export interface LuaFunction {
  /** Dotted name for globals (`startup`, `lamps.light`); null for local or anonymous functions. */
  name: string | null;
  line: number;
  from: number;
  to: number;
  parameters: string[];
}

export interface LuaCall {
  name: string;
  line: number;
  from: number;
  to: number;
  /** Literal string arguments by position; null where the argument is something else. */
  literals: (string | null)[];
  /** Name of the global function whose body holds the call, or null at the top level. */
  within: string | null;
  /** How many arguments are written; null where the last may be several, as a call or "..." may. */
  count: number | null;
  /** Whether whoever gets into the function gets here: no branch, loop or return lies before. */
  always: boolean;
}

/** A statement that does something by itself: its first line, and the last that belongs to its head or to all of it. */
export interface LuaStatement {
  line: number;
  last: number;
}

/** An occurrence of a variable. */
export interface LuaName {
  name: string;
  from: number;
  to: number;
  line: number;
  role: 'declare' | 'read' | 'write';
  /** Where the local variable is declared that is meant; null for a global. */
  local: number | null;
}

export interface LuaOutline {
  functions: LuaFunction[];
  calls: LuaCall[];
  statements: LuaStatement[];
  names: LuaName[];
  /** Global names that are read anywhere, e.g. a function handed to another. */
  mentions: Set<string>;
}

interface Variable {
  name: string;
  readOnly: boolean;
  /** How many functions lie around it. */
  depth: number;
  /** Where it is declared; before the text for what is declared nowhere in it. */
  from: number;
}

interface FunctionScope {
  name: string | null;
  /** Line of the function, null for the chunk itself. */
  line: number | null;
  /** Local variables that are visible now, and those of functions around that it uses. */
  locals: number;
  upvalues: Set<Variable | typeof ENVIRONMENT>;
  varargs: boolean;
  loops: number;
  /** Something before may have left the function. */
  left: boolean;
  /** Right sides of "and" and "or" that lie around. */
  maybe: number;
  labels: Set<string>[];
  gotos: { label: string; token: Token; blocks: Set<string>[] }[];
}

/** A parsed expression, as far as later checks need it. */
interface Expression {
  kind: 'variable' | 'call' | 'other';
  /** Dotted path if the expression is a chain of names. */
  path: string | null;
  local: boolean;
  variable?: Variable;
  /** Its occurrence, where it is nothing but a name. */
  use?: LuaName;
  literal?: string;
  /** "...": any number of values. */
  several?: boolean;
}

const OTHER: Expression = { kind: 'other', path: null, local: false };

const BINARY: Record<string, [number, number]> = {
  or: [1, 1],
  and: [2, 2],
  '<': [3, 3],
  '>': [3, 3],
  '<=': [3, 3],
  '>=': [3, 3],
  '~=': [3, 3],
  '==': [3, 3],
  '|': [4, 4],
  '~': [5, 5],
  '&': [6, 6],
  '<<': [7, 7],
  '>>': [7, 7],
  '..': [9, 8],
  '+': [10, 10],
  '-': [10, 10],
  '*': [11, 11],
  '/': [11, 11],
  '//': [11, 11],
  '%': [11, 11],
  '^': [14, 13],
};
const UNARY_PRIORITY = 12;
/** Lua's own limit on nested C calls (LUAI_MAXCCALLS), which also bounds our recursion. */
const MAX_DEPTH = 190;
/** Local variables that a function may have at a time, and variables of others that it may use (MAXVARS, MAXUPVAL). */
const MAX_LOCALS = 200;
const MAX_UPVALUES = 255;
/** Variables that a loop keeps for itself (lparser.c: fornum, forlist). */
const HIDDEN = { numeric: 3, generic: 4 };
/** Globals are fields of a table that is itself a variable of the chunk. */
const ENVIRONMENT = '_ENV';

/** Parses a chunk. Throws `LuaSyntaxError` at the first error. */
export function parseLua(source: string): LuaOutline {
  return new Parser(source).chunk();
}

class Parser {
  private readonly tokens: Token[];
  private at = 0;
  private depth = 0;
  private readonly blocks: Variable[][] = [];
  /** What a name means now, innermost last. */
  private readonly visible = new Map<string, Variable[]>();
  private readonly scopes: FunctionScope[] = [];
  private readonly outline: LuaOutline = { functions: [], calls: [], statements: [], names: [], mentions: new Set() };

  constructor(source: string) {
    this.tokens = tokenise(source);
  }

  chunk(): LuaOutline {
    this.body(null, null, true, [], () => {
      this.statements();
      if (this.peek().kind !== 'end') this.fail(`'<eof>' expected`);
    });
    return this.outline;
  }

  private peek(ahead = 0): Token {
    return this.tokens[Math.min(this.at + ahead, this.tokens.length - 1)];
  }

  private next(): Token {
    return this.tokens[this.at < this.tokens.length - 1 ? this.at++ : this.at];
  }

  private is(text: string): boolean {
    const token = this.peek();
    return token.text === text && (token.kind === 'symbol' || token.kind === 'keyword');
  }

  private accept(text: string): boolean {
    if (!this.is(text)) return false;
    this.next();
    return true;
  }

  private expect(text: string, opened?: Token): Token {
    if (this.is(text)) return this.next();
    const hint = opened && opened.line !== this.peek().line ? ` (to close '${opened.text}' at line ${opened.line})` : '';
    return this.fail(`'${text}' expected${hint}`);
  }

  private name(): Token {
    return this.peek().kind === 'name' ? this.next() : this.fail('<name> expected');
  }

  private fail(message: string, token = this.peek()): never {
    const near = token.kind === 'end' ? '<eof>' : token.text.length > 24 ? `${token.text.slice(0, 24)}…` : token.text;
    throw new LuaSyntaxError(`${message} near '${near}'`, token.line, token.from, token.to);
  }

  private nested<T>(work: () => T): T {
    if (++this.depth > MAX_DEPTH) this.fail('chunk has too many syntax levels');
    const result = work();
    this.depth--;
    return result;
  }

  private scope(): FunctionScope {
    return this.scopes[this.scopes.length - 1];
  }

  /** Runs `inside` within a new function: own labels, loops and variables. */
  private body(name: string | null, line: number | null, varargs: boolean, parameters: (Token | string)[], inside: () => void): void {
    const scope: FunctionScope = { name, line, locals: 0, upvalues: new Set(), varargs, loops: 0, left: false, maybe: 0, labels: [], gotos: [] };
    this.scopes.push(scope);
    this.block(inside, parameters);
    for (const jump of scope.gotos) {
      if (!jump.blocks.some((labels) => labels.has(jump.label))) this.fail(`no visible label '${jump.label}' for goto`, jump.token);
    }
    this.scopes.pop();
  }

  private block(inside: () => void = () => this.statements(), variables: (Token | string)[] = [], hidden = 0): void {
    this.nested(() => {
      const scope = this.scope();
      this.blocks.push([]);
      scope.locals += hidden;
      for (const name of variables) this.declare(name);
      scope.labels.push(new Set());
      inside();
      scope.labels.pop();
      for (const { name } of this.blocks.pop()!) {
        this.visible.get(name)!.pop();
        scope.locals--;
      }
      scope.locals -= hidden;
    });
  }

  private declare(given: Token | string, readOnly = false): void {
    const name = typeof given === 'string' ? given : given.text;
    const from = typeof given === 'string' ? -1 : given.from;
    const variable = { name, readOnly, depth: this.scopes.length, from };
    if (typeof given !== 'string') this.occurs(given, 'declare', variable);
    this.room(1);
    this.scope().locals++;
    this.blocks[this.blocks.length - 1].push(variable);
    const known = this.visible.get(name);
    if (known) known.push(variable);
    else this.visible.set(name, [variable]);
  }

  private occurs({ text, from, to, line }: Token, role: LuaName['role'], variable: Variable | undefined): LuaName {
    const use: LuaName = { name: text, from, to, line, role, local: variable ? variable.from : null };
    this.outline.names.push(use);
    return use;
  }

  /** Line of the token that was taken last. */
  private lastLine(): number {
    return this.tokens[Math.max(0, this.at - 1)].line;
  }

  /** Notes a statement whose head or whole has just been read. */
  private runs(line: number): void {
    this.outline.statements.push({ line, last: this.lastLine() });
  }

  /** Lua keeps local variables in registers, of which a function has not many. */
  private room(more: number): void {
    const { locals, line } = this.scope();
    if (locals + more > MAX_LOCALS)
      this.fail(`too many local variables (limit is ${MAX_LOCALS}) in ${line === null ? 'main function' : `function at line ${line}`}`);
  }

  private find(name: string): Variable | undefined {
    const found = this.visible.get(name)?.at(-1);
    const used = found ?? ENVIRONMENT;
    // Every function between the variable and its use hands it on.
    for (let s = this.scopes.length; s > (found?.depth ?? 0); s--) {
      const { upvalues, line } = this.scopes[s - 1];
      if (upvalues.has(used)) break;
      upvalues.add(used);
      if (upvalues.size > MAX_UPVALUES)
        this.fail(`too many upvalues (limit is ${MAX_UPVALUES}) in ${line === null ? 'main function' : `function at line ${line}`}`);
    }
    return found;
  }

  private statements(): void {
    for (;;) {
      const token = this.peek();
      if (token.kind === 'end' || ['end', 'else', 'elseif', 'until'].some((word) => this.is(word))) return;
      if (this.accept('return')) {
        const { line } = token;
        const closes = () => this.peek().kind === 'end' || [';', 'end', 'else', 'elseif', 'until'].some((word) => this.is(word));
        if (!closes()) this.expressions();
        this.scope().left = true;
        this.runs(line);
        this.accept(';');
        if (!closes()) this.fail(`'<eof>' expected`);
        return;
      }
      this.statement();
    }
  }

  private loop(inside: () => void): void {
    this.scope().loops++;
    inside();
    this.scope().loops--;
  }

  private statement(): void {
    const token = this.peek();
    if (this.accept(';')) return;
    if (this.accept('::')) return this.label();
    if (token.kind !== 'keyword') return this.assignmentOrCall();
    switch (token.text) {
      case 'if':
        return this.ifStatement(this.next());
      case 'while':
        this.next();
        this.expression();
        this.runs(token.line);
        this.expect('do');
        this.loop(() => this.block());
        this.expect('end', token);
        return;
      case 'do':
        this.next();
        this.block();
        this.expect('end', token);
        return;
      case 'for':
        return this.forStatement(this.next());
      case 'repeat':
        this.next();
        // The condition sees the block's variables.
        this.loop(() =>
          this.block(() => {
            this.statements();
            this.expect('until', token);
            this.expression();
          }),
        );
        return;
      case 'function':
        return this.functionStatement(this.next());
      case 'local':
        this.next();
        if (this.accept('function')) {
          this.declare(this.name());
          this.functionBody(null, token, []);
          return;
        }
        this.localStatement();
        return this.runs(token.line);
      case 'goto': {
        this.next();
        const target = this.name();
        this.scope().left = true;
        this.scope().gotos.push({ label: target.text, token: target, blocks: [...this.scope().labels] });
        return this.runs(token.line);
      }
      case 'break':
        this.next();
        if (this.scope().loops === 0) this.fail(`break outside a loop at line ${token.line}`);
        return this.runs(token.line);
      default:
        return this.assignmentOrCall();
    }
  }

  private label(): void {
    const label = this.name();
    if (this.scope().labels.some((labels) => labels.has(label.text))) this.fail(`label '${label.text}' already defined`, label);
    this.expect('::');
    this.scope().labels[this.scope().labels.length - 1].add(label.text);
  }

  private ifStatement(opened: Token): void {
    this.expression();
    this.runs(opened.line);
    this.expect('then');
    this.block();
    for (let token = this.peek(); this.accept('elseif'); token = this.peek()) {
      this.expression();
      this.runs(token.line);
      this.expect('then');
      this.block();
    }
    if (this.accept('else')) this.block();
    this.expect('end', opened);
  }

  private forStatement(opened: Token): void {
    const names = [this.name()];
    let hidden = HIDDEN.generic;
    if (this.accept('=')) {
      hidden = HIDDEN.numeric;
      this.expression();
      this.expect(',');
      this.expression();
      if (this.accept(',')) this.expression();
    } else {
      while (this.accept(',')) names.push(this.name());
      if (!this.is('in')) this.fail(`'=' or 'in' expected`);
      this.next();
      this.expressions();
    }
    this.runs(opened.line);
    this.expect('do');
    this.loop(() => this.block(() => this.statements(), names, hidden));
    this.expect('end', opened);
  }

  private functionStatement(opened: Token): void {
    const first = this.name();
    let path = first.text;
    while (this.accept('.')) path += `.${this.name().text}`;
    const method = this.accept(':');
    if (method) path += `:${this.name().text}`;
    const variable = this.find(first.text);
    this.occurs(first, path === first.text ? 'write' : 'read', variable);
    const local = variable !== undefined;
    this.functionBody(local ? null : path, opened, method ? ['self'] : []);
  }

  private localStatement(): void {
    const declared: [Token, boolean][] = [];
    let closes = 0;
    do {
      const name = this.name();
      let readOnly = false;
      if (this.accept('<')) {
        const attribute = this.name();
        if (attribute.text !== 'const' && attribute.text !== 'close') this.fail(`unknown attribute '${attribute.text}'`, attribute);
        if (attribute.text === 'close' && ++closes > 1) this.fail('multiple to-be-closed variables in local list', attribute);
        this.expect('>');
        readOnly = true;
      }
      declared.push([name, readOnly]);
      this.room(declared.length);
    } while (this.accept(','));
    if (this.accept('=')) this.expressions();
    for (const [name, readOnly] of declared) this.declare(name, readOnly);
  }

  private assignmentOrCall(): void {
    const { line } = this.peek();
    const targets = [this.suffixed()];
    if (!this.is('=') && !this.is(',')) {
      if (targets[0].kind !== 'call') this.fail('syntax error');
      return this.runs(line);
    }
    while (this.accept(',')) targets.push(this.suffixed());
    for (const target of targets) {
      if (target.kind !== 'variable') this.fail('syntax error');
      if (target.variable?.readOnly) this.fail(`attempt to assign to const variable '${target.variable.name}'`);
      if (target.use) target.use.role = 'write';
    }
    this.expect('=');
    // `name = function … end` defines a function under that name.
    const single = targets.length === 1 && !targets[0].local ? targets[0].path : null;
    if (single && this.is('function')) {
      this.functionBody(single, this.next(), []);
      if (this.peek().kind === 'symbol' && Object.hasOwn(BINARY, this.peek().text)) this.fail('unexpected symbol');
      return;
    }
    this.expressions();
    this.runs(line);
  }

  private expressions(): Expression[] {
    const list = [this.expression()];
    while (this.accept(',')) list.push(this.expression());
    return list;
  }

  private expression(limit = 0): Expression {
    return this.nested(() => {
      let left: Expression;
      if (['not', '-', '#', '~'].some((operator) => this.is(operator))) {
        this.next();
        this.expression(UNARY_PRIORITY);
        left = OTHER;
      } else left = this.simple();
      for (;;) {
        const token = this.peek();
        const priority = token.kind === 'symbol' || token.kind === 'keyword' ? BINARY[token.text] : undefined;
        if (!priority || priority[0] <= limit) return left;
        this.next();
        const maybe = token.text === 'and' || token.text === 'or' ? 1 : 0;
        this.scope().maybe += maybe;
        this.expression(priority[1]);
        this.scope().maybe -= maybe;
        left = OTHER;
      }
    });
  }

  private simple(): Expression {
    const token = this.peek();
    if (token.kind === 'number') {
      this.next();
      return OTHER;
    }
    if (token.kind === 'string') {
      this.next();
      return { ...OTHER, literal: stringValue(token.text) };
    }
    if (['nil', 'true', 'false'].some((word) => this.is(word))) {
      this.next();
      return OTHER;
    }
    if (this.is('...')) {
      if (!this.scope().varargs) this.fail(`cannot use '...' outside a vararg function`);
      this.next();
      return { ...OTHER, several: true };
    }
    if (this.is('{')) return this.table();
    if (this.is('function')) {
      this.functionBody(null, this.next(), []);
      return OTHER;
    }
    return this.suffixed();
  }

  private suffixed(): Expression {
    const start = this.peek();
    let value: Expression;
    if (start.kind === 'name') {
      this.next();
      const variable = this.find(start.text);
      if (!variable) this.outline.mentions.add(start.text);
      value = { kind: 'variable', path: start.text, local: variable !== undefined, variable, use: this.occurs(start, 'read', variable) };
    } else if (this.accept('(')) {
      this.expression();
      this.expect(')', start);
      value = OTHER;
    } else return this.fail('unexpected symbol');
    for (;;) {
      if (this.accept('.')) {
        const key = this.name().text;
        value = { kind: 'variable', path: value.path ? `${value.path}.${key}` : null, local: value.local };
      } else if (this.is('[')) {
        const opened = this.next();
        this.expression();
        this.expect(']', opened);
        value = { kind: 'variable', path: null, local: value.local };
      } else if (this.accept(':')) {
        const key = this.name();
        value = this.call({ ...value, path: value.path ? `${value.path}:${key.text}` : null }, start);
      } else if (this.is('(') || this.is('{') || this.peek().kind === 'string') value = this.call(value, start);
      else return value;
    }
  }

  private call(callee: Expression, start: Token): Expression {
    const token = this.peek();
    let values: Expression[] = [];
    if (token.kind === 'string') {
      this.next();
      values = [{ ...OTHER, literal: stringValue(token.text) }];
    } else if (this.is('{')) values = [this.table()];
    else {
      this.expect('(');
      if (!this.is(')')) values = this.expressions();
      this.expect(')', token);
    }
    if (callee.path && !callee.local) {
      const within = [...this.scopes].reverse().find((scope) => scope.name !== null)?.name ?? null;
      const literals = values.map((value) => value.literal ?? null);
      const several = values.at(-1)?.kind === 'call' || values.at(-1)?.several === true;
      const scope = this.scope();
      const always = scope.name === within && scope.labels.length === 1 && scope.maybe === 0 && !scope.left;
      if (callee.path === 'error') scope.left = true;
      this.outline.calls.push({
        name: callee.path,
        line: start.line,
        from: start.from,
        to: this.tokens[this.at - 1].to,
        literals,
        within,
        count: several ? null : values.length,
        always,
      });
    }
    return { kind: 'call', path: null, local: false };
  }

  private table(): Expression {
    const opened = this.expect('{');
    while (!this.is('}')) {
      if (this.is('[')) {
        const bracket = this.next();
        this.expression();
        this.expect(']', bracket);
        this.expect('=');
        this.expression();
      } else if (this.peek().kind === 'name' && this.peek(1).text === '=' && this.peek(1).kind === 'symbol') {
        this.next();
        this.next();
        this.expression();
      } else this.expression();
      if (!this.accept(',') && !this.accept(';')) break;
    }
    this.expect('}', opened);
    return OTHER;
  }

  private functionBody(name: string | null, opened: Token, implicit: string[]): void {
    const open = this.expect('(');
    const parameters: (Token | string)[] = [...implicit];
    let varargs = false;
    if (!this.is(')')) {
      do {
        if (this.accept('...')) {
          varargs = true;
          break;
        }
        parameters.push(this.name());
      } while (this.accept(','));
    }
    this.expect(')', open);
    const record: LuaFunction = {
      name,
      line: opened.line,
      from: opened.from,
      to: opened.to,
      parameters: parameters.map((p) => (typeof p === 'string' ? p : p.text)),
    };
    this.outline.functions.push(record);
    this.body(name, opened.line, varargs, parameters, () => this.statements());
    record.to = this.expect('end', opened).to;
  }
}

/** The text of a string token without its quotes; escapes stay as written. */
function stringValue(text: string): string {
  const long = /^\[(=*)\[\n?/.exec(text);
  return long ? text.slice(long[0].length, -long[1].length - 2) : text.slice(1, -1);
}
