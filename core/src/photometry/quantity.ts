// What an artist types into a field: numbers with units, fractions, small sums.

/** What a typed text means. */
export interface Quantity {
  value: number;
  /** The unit as typed, in lower case, without spaces; '' when none. */
  unit: string;
  /** What the value does to the present one. */
  change: 'set' | 'add' | 'times';
  /** Lumens a watt, where typed behind an @. */
  efficacy?: number;
}

/** A text that means no quantity. */
export class QuantityError extends Error {}

const SIGNS: Record<string, string> = { '−': '-', '–': '-', '×': '*', '·': '*', '÷': '/', '²': '2' };
const FRACTIONS: Record<string, string> = { '½': '1/2', '⅓': '1/3', '⅔': '2/3', '¼': '1/4', '¾': '3/4' };

const normal = (text: string): string =>
  text
    .replace(/[−–×·÷²]/g, (c) => SIGNS[c]!)
    // "1⅓" is one and a third
    .replace(/(\d)?\s*([½⅓⅔¼¾])/g, (_, whole: string | undefined, f: string) =>
      whole === undefined ? `(${FRACTIONS[f]!})` : `(${whole}+${FRACTIONS[f]!})`,
    )
    .replace(/(\d),(\d)/g, '$1.$2')
    .trim();

/** Reads sums, products, fractions and brackets; answers the value and where it ended. */
class Sum {
  private at = 0;
  private readonly text: string;
  constructor(text: string) {
    this.text = text;
  }

  /** The value, and the text that is no part of the sum. */
  read(): { value: number; rest: string } {
    const value = this.sum();
    return { value, rest: this.text.slice(this.at).trim() };
  }

  private peek(): string {
    while (this.text[this.at] === ' ') this.at++;
    return this.text[this.at] ?? '';
  }

  private sum(): number {
    let value = this.product();
    for (let c = this.peek(); c === '+' || c === '-'; c = this.peek()) {
      this.at++;
      const next = this.product();
      value += c === '+' ? next : -next;
    }
    return value;
  }

  private product(): number {
    let value = this.factor();
    for (let c = this.peek(); c === '*' || c === '/'; c = this.peek()) {
      this.at++;
      const next = this.factor();
      if (c === '/' && next === 0) throw new QuantityError('Nothing can be divided by 0.');
      value = c === '*' ? value * next : value / next;
    }
    return value;
  }

  private factor(): number {
    const c = this.peek();
    if (c === '+' || c === '-') {
      this.at++;
      return c === '-' ? -this.factor() : this.factor();
    }
    if (c === '(') {
      this.at++;
      const value = this.sum();
      if (this.peek() !== ')') throw new QuantityError('A bracket is not closed.');
      this.at++;
      return value;
    }
    const match = /^(\d+\.?\d*|\.\d+)(e[+-]?\d+)?/i.exec(this.text.slice(this.at));
    if (!match) throw new QuantityError(c ? `“${this.text.slice(this.at)}” is no number.` : 'A number is missing.');
    this.at += match[0].length;
    return Number(match[0]);
  }
}

/**
 * Reads a typed quantity: "40cm", "5600 K", "+1/3", "1⅓", "200kcd/m2", "500W@15", "2*(30+5) cm". A text that begins with
 * "+=", "-=", "*" or "/" changes the present value instead of setting it.
 * @throws QuantityError with the reason in words.
 */
export function parseQuantity(text: string): Quantity {
  let rest = normal(text);
  if (rest === '') throw new QuantityError('Nothing was typed.');
  let change: Quantity['change'] = 'set';
  let sign = 1,
    divide = false;
  if (rest.startsWith('+=') || rest.startsWith('-=')) {
    change = 'add';
    sign = rest[0] === '-' ? -1 : 1;
    rest = rest.slice(2);
  } else if (rest.startsWith('*') || rest.startsWith('/')) {
    change = 'times';
    divide = rest[0] === '/';
    rest = rest.slice(1);
  }
  const { value, rest: tail } = new Sum(rest).read();
  const match = /^([a-z°"'%/0-9]*)\s*(?:@\s*([\d.]+))?$/i.exec(tail.replace(/\s+/g, ''));
  if (!match) throw new QuantityError(`“${tail}” is no unit.`);
  if (divide && value === 0) throw new QuantityError('Nothing can be divided by 0.');
  const result = divide ? 1 / value : value * sign;
  if (!Number.isFinite(result)) throw new QuantityError(`“${text}” is no number.`);
  const efficacy = match[2] === undefined ? undefined : Number(match[2]);
  if (efficacy !== undefined && !(efficacy > 0)) throw new QuantityError('An efficacy is above 0 lm/W.');
  return { value: result, unit: match[1]!.toLowerCase(), change, ...(efficacy === undefined ? {} : { efficacy }) };
}

/** Metres of a length unit. */
const LENGTHS: Record<string, number> = { mm: 0.001, cm: 0.01, m: 1, km: 1000, in: 0.0254, '"': 0.0254, ft: 0.3048, "'": 0.3048 };

/**
 * What a typed text makes of a value that is kept in `unit`; lengths and k… are converted.
 * @example typed('40cm', 1.2, 'm') // 0.4
 * @throws QuantityError when the unit does not belong here.
 */
export function typed(text: string, now: number, unit: string): number {
  const q = parseQuantity(text);
  const own = unit.toLowerCase().replace('²', '2');
  let factor = 1;
  if (q.change !== 'times' && q.unit !== '' && q.unit !== own) {
    const from = LENGTHS[q.unit],
      to = LENGTHS[own];
    if (from !== undefined && to !== undefined) factor = from / to;
    else if (q.unit === `k${own}`) factor = 1000;
    else if (own === `k${q.unit}`) factor = 0.001;
    else if (own === '°' && /^deg(rees?)?$/.test(q.unit)) factor = 1;
    else if (own === 'stops' && /^(st|stop|ev)$/.test(q.unit)) factor = 1;
    else throw new QuantityError(`${q.unit} does not belong here; ${unit || 'a plain number'} does.`);
  }
  if (q.change === 'times') return now * q.value;
  return q.change === 'add' ? now + q.value * factor : q.value * factor;
}
