// The text grammar of USD (openusd.org, "USD Terms and Concepts" and the crate-less .usda files that ship with it; from memory): prims in braces, with
// metadata in parentheses, properties with types, arrays, tuples, paths, assets and dictionaries. What is read is a tree of prims; composition
// (references, variants) is the reader's matter.

import { FILE_LIMITS } from '../../math/index.ts';
/** A file that is no .usda, or not one that can be taken in; says where and why. */
export class UsdError extends Error {
  constructor(reason: string) {
    super(reason);
    this.name = 'UsdError';
  }
}

/** A value: numbers, words, lists and tuples of them, paths (`<…>`), files (`@…@`), dictionaries. */
export type UsdValue = number | string | boolean | null | UsdValue[] | UsdPath | UsdAsset | UsdDictionary;
export interface UsdPath {
  path: string;
}
export interface UsdAsset {
  asset: string;
  /** The prim that is meant within it. */
  prim?: string;
}
export interface UsdDictionary {
  [name: string]: UsdValue;
}

/** An attribute (with its type) or a relationship (`rel`). */
export interface UsdProperty {
  type: string;
  value: UsdValue | undefined;
  /** Line of the file, from 1. */
  line: number;
}

export interface UsdPrim {
  specifier: 'def' | 'over' | 'class';
  type: string;
  name: string;
  /** `/World/Lights/Key`. */
  path: string;
  line: number;
  metadata: Record<string, UsdValue>;
  properties: Record<string, UsdProperty>;
  children: UsdPrim[];
}

export interface UsdLayer {
  metadata: Record<string, UsdValue>;
  prims: UsdPrim[];
}

/** Nesting of prims and values, and prims in all, that a file may have. */
const DEEPEST = 64,
  MOST_PRIMS = FILE_LIMITS.usdPrims;
/** Longest text, characters. */
export const LONGEST_USDA = 256 * 1024 * 1024;

const WORD = /[A-Za-z_\u0080-\uffff][\w:.\u0080-\uffff-]*/y;
const NUMBER = /[-+]?(?:inf\b|nan\b|(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)/y;
const SPACE = /(?:[\s;]|#[^\n]*)*/y;
const LIST_EDITS = new Set(['add', 'append', 'prepend', 'delete', 'reorder']);

class Parser {
  private readonly text: string;
  private at = 0;
  private prims = 0;
  private lines = 1;
  private counted = 0;

  constructor(text: string) {
    this.text = text;
  }

  layer(): UsdLayer {
    this.space();
    const metadata = this.peek() === '(' ? this.metadata(0) : {};
    const prims: UsdPrim[] = [];
    for (this.space(); this.at < this.text.length; this.space()) prims.push(this.prim('', 0));
    return { metadata, prims };
  }

  /** Line of where it stands, counted on from where it was asked last. */
  private get line(): number {
    for (; this.counted < this.at; this.counted++) if (this.text.charCodeAt(this.counted) === 10) this.lines++;
    return this.lines;
  }
  private fail(reason: string): never {
    throw new UsdError(`Line ${this.line}: ${reason}`);
  }
  private space(): void {
    SPACE.lastIndex = this.at;
    SPACE.exec(this.text);
    this.at = SPACE.lastIndex;
  }
  private peek(): string {
    return this.text[this.at] ?? '';
  }
  private take(mark: string): boolean {
    this.space();
    if (!this.text.startsWith(mark, this.at)) return false;
    this.at += mark.length;
    return true;
  }
  private want(mark: string): void {
    if (!this.take(mark)) this.fail(`“${mark}” is expected, not “${this.text.slice(this.at, this.at + 12).split('\n')[0]}”.`);
  }
  private match(what: RegExp): string | undefined {
    this.space();
    what.lastIndex = this.at;
    const found = what.exec(this.text)?.[0];
    if (found !== undefined) this.at += found.length;
    return found;
  }
  private word(what: string): string {
    return this.match(WORD) ?? this.fail(`${what} is expected.`);
  }
  /** The word that comes, without taking it. */
  private coming(): string | undefined {
    const at = this.at,
      word = this.match(WORD);
    this.at = at;
    return word;
  }

  private prim(parent: string, depth: number): UsdPrim {
    if (depth > DEEPEST) this.fail(`Prims are nested more than ${DEEPEST} deep.`);
    if (++this.prims > MOST_PRIMS) this.fail(`There are more than ${MOST_PRIMS} prims.`);
    this.space();
    const { line } = this;
    const specifier = this.word('def, over or class');
    if (specifier !== 'def' && specifier !== 'over' && specifier !== 'class') this.fail(`“${specifier}” begins no prim.`);
    this.space();
    const type = this.peek() === '"' || this.peek() === "'" ? '' : this.word('The type of a prim');
    this.space();
    const name = this.string();
    const path = `${parent}/${name}`;
    this.space();
    const metadata = this.peek() === '(' ? this.metadata(depth) : {};
    const prim: UsdPrim = { specifier: specifier as UsdPrim['specifier'], type, name, path, line, metadata, properties: {}, children: [] };
    this.want('{');
    this.body(prim, depth);
    return prim;
  }

  private body(prim: UsdPrim, depth: number): void {
    while (!this.take('}')) {
      if (this.at >= this.text.length) this.fail(`${prim.path} is not closed.`);
      const word = this.coming();
      if (word === 'def' || word === 'over' || word === 'class') prim.children.push(this.prim(prim.path, depth + 1));
      else if (word === 'variantSet') this.variants(prim, depth);
      else this.property(prim, depth);
    }
  }

  /** Variants are read past: what they hold is said to be left. */
  private variants(prim: UsdPrim, depth: number): void {
    this.word('variantSet');
    this.space();
    this.string();
    this.want('=');
    this.want('{');
    while (!this.take('}')) {
      this.space();
      this.string();
      this.space();
      if (this.peek() === '(') this.metadata(depth);
      this.want('{');
      this.body({ ...prim, properties: {}, children: [] }, depth + 1);
    }
    prim.metadata['variantSets'] = true;
  }

  private property(prim: UsdPrim, depth: number): void {
    let word = this.word('A property');
    // `reorder nameChildren = [...]` and the like say nothing of light
    while (word === 'custom' || word === 'uniform' || word === 'varying' || word === 'config' || LIST_EDITS.has(word))
      word = this.word('A type');
    let type = word;
    if (this.take('[')) {
      this.want(']');
      type += '[]';
    }
    this.space();
    const { line } = this;
    const name = word === 'nameChildren' || word === 'properties' ? word : this.word('The name of a property');
    let value: UsdValue | undefined;
    if (this.take('=')) value = this.value(depth + 1);
    this.space();
    if (this.peek() === '(') this.metadata(depth);
    // what changes over time stands for the value where there is no other
    const sampled = name.endsWith('.timeSamples') ? name.slice(0, -'.timeSamples'.length) : name;
    if (sampled === name || prim.properties[sampled]?.value === undefined) prim.properties[sampled] = { type, value, line };
  }

  private metadata(depth: number): Record<string, UsdValue> {
    const out: Record<string, UsdValue> = {};
    this.want('(');
    while (!this.take(')')) {
      if (this.at >= this.text.length) this.fail('Metadata is not closed.');
      this.space();
      if (this.peek() === '"' || this.peek() === "'") {
        out['comment'] = this.string();
        continue;
      }
      let name = this.word('The name of metadata');
      if (LIST_EDITS.has(name)) name = this.word('The name of metadata');
      // a dictionary's entries name their type
      if (!this.take('=')) name = this.word('The name of metadata');
      else {
        out[name] = this.value(depth + 1);
        this.take(',');
        continue;
      }
      this.want('=');
      out[name] = this.value(depth + 1);
    }
    return out;
  }

  private value(depth: number): UsdValue {
    if (depth > DEEPEST) this.fail(`Values are nested more than ${DEEPEST} deep.`);
    this.space();
    switch (this.peek()) {
      case '"':
      case "'":
        return this.string();
      case '@':
        return this.asset();
      case '<':
        return this.path();
      case '[':
        this.at++;
        return this.list(']', depth);
      case '(':
        this.at++;
        return this.list(')', depth);
      case '{':
        return this.dictionary(depth);
    }
    const number = this.match(NUMBER);
    if (number !== undefined) return /inf|nan/.test(number) ? this.fail(`“${number}” is no number that can be used.`) : Number(number);
    const word = this.match(WORD);
    if (word === 'true') return true;
    if (word === 'false') return false;
    if (word === 'None') return null;
    return word ?? this.fail(`A value is expected, not “${this.text.slice(this.at, this.at + 12).split('\n')[0]}”.`);
  }

  private list(end: string, depth: number): UsdValue[] {
    const out: UsdValue[] = [];
    while (!this.take(end)) {
      if (this.at >= this.text.length) this.fail(`“${end}” is missing.`);
      out.push(this.value(depth + 1));
      this.take(',');
    }
    return out;
  }

  /** Of metadata (`string name = "…"`) or of times (`0: 1,`). */
  private dictionary(depth: number): UsdDictionary {
    const out: UsdDictionary = {};
    this.want('{');
    while (!this.take('}')) {
      if (this.at >= this.text.length) this.fail('A dictionary is not closed.');
      const time = this.match(NUMBER);
      if (time !== undefined) {
        this.want(':');
        out[time] = this.value(depth + 1);
        this.take(',');
        continue;
      }
      this.word('A type');
      if (this.take('[')) this.want(']');
      this.space();
      const name = this.peek() === '"' || this.peek() === "'" ? this.string() : this.word('A name');
      this.want('=');
      out[name] = this.value(depth + 1);
      this.take(',');
    }
    return out;
  }

  private string(): string {
    const { text } = this;
    const quote = this.peek();
    if (quote !== '"' && quote !== "'") this.fail('A name in quotes is expected.');
    const long = text.startsWith(quote.repeat(3), this.at) ? quote.repeat(3) : quote;
    let out = '';
    for (let i = this.at + long.length; ;) {
      if (i >= text.length || (long.length === 1 && text[i] === '\n')) this.fail('A text in quotes is not closed.');
      if (text.startsWith(long, i)) {
        this.at = i + long.length;
        return out;
      }
      if (text[i] === '\\') {
        const c = text[i + 1] ?? '';
        out += c === 'n' ? '\n' : c === 't' ? '\t' : c === 'r' ? '\r' : c;
        i += 2;
      } else out += text[i++];
    }
  }

  private asset(): UsdAsset {
    const mark = this.text.startsWith('@@@', this.at) ? '@@@' : '@';
    const end = this.text.indexOf(mark, this.at + mark.length);
    if (end < 0) this.fail('A file’s name is not closed.');
    const asset = this.text.slice(this.at + mark.length, end);
    this.at = end + mark.length;
    return this.peek() === '<' ? { asset, prim: this.path().path } : { asset };
  }

  private path(): UsdPath {
    const end = this.text.indexOf('>', this.at);
    if (end < 0 || this.text.slice(this.at, end).includes('\n')) this.fail('A path is not closed.');
    const path = this.text.slice(this.at + 1, end);
    this.at = end + 1;
    return { path };
  }
}

/**
 * The prims of a .usda.
 * @throws UsdError that names the line and the reason
 */
export function parseUsda(text: string): UsdLayer {
  if (text.startsWith('PXR-USDC')) throw new UsdError('This is a binary USD file (crate); it must be saved as text (.usda) first.');
  if (text.startsWith('PK')) throw new UsdError('This is a USD package (.usdz); what is in it must be saved as text (.usda) first.');
  if (!/^#usda 1\.\d/.test(text)) throw new UsdError('The file does not begin with “#usda 1.0”.');
  if (text.length > LONGEST_USDA) throw new UsdError(`The file has more than ${LONGEST_USDA / 1024 / 1024} MB of text.`);
  return new Parser(text).layer();
}
