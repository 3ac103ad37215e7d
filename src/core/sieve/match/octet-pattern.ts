import { elementAt } from '../../text/lookup';
/**
 * Searches for a run of octets with wildcards (-1). The naive search tries every position; if a crafted pattern makes
 * that slow, a convolution decides all positions of a stretch at once, after Clifford and Clifford, "Simple
 * deterministic wildcard matching", Information Processing Letters 101(2), 2007.
 */

/** The first position in `octets` at or after `from` where all of `wanted` fits before `limit`; -1 if there is none. */
export function findOctets(wanted: readonly number[], octets: string, from: number, limit: number): number {
  let lead = 0;
  while (lead < wanted.length && wanted[lead] === -1) lead++;
  let end = wanted.length;
  while (end > lead && wanted[end - 1] === -1) end--;
  const last = limit - wanted.length;
  if (from > last) return -1;
  // Only wildcards: it fits anywhere.
  if (lead === end) return from;
  const core = wanted.slice(lead, end);
  let patience = PATIENCE * (limit - from) + PATIENCE_AT_LEAST;
  for (let place = from; place <= last; place++) {
    let met = 0;
    while (met < core.length && fits(elementAt(core, met), octets, place + lead + met)) met++;
    if (met === core.length) return place;
    patience -= met + 1;
    if (patience < 0) {
      const found = findByConvolution(core, octets, place + 1 + lead, last + lead);
      return found < 0 ? -1 : found - lead;
    }
  }
  return -1;
}

/** Comparisons for each octet of the text, and at least, before the convolution is used. */
const PATIENCE = 16;
const PATIENCE_AT_LEAST = 1 << 16;

const fits = (code: number, octets: string, at: number): boolean => code === -1 || code === octets.charCodeAt(at);

/** The first position from `from` to `last` where `core` fits. */
function findByConvolution(core: readonly number[], octets: string, from: number, last: number): number {
  const stretch = new Stretch(core);
  for (let start = from; start <= last; start += stretch.places) {
    const found = stretch.firstIn(octets, start, Math.min(last, start + stretch.places - 1));
    if (found >= 0) return found;
  }
  return -1;
}

/** Octets are centred, so that sums stay small and exact. */
const MIDDLE = 128;

/**
 * A pattern prepared for stretches of `size` octets. At position j the sum of w[i] (p[i] - t[i+j])^2, with w = 0 for
 * wildcards and 1 for other octets, is 0 exactly where the pattern fits; it is a constant and two correlations, which
 * the fast Fourier transform computes for all positions. They are integers below 2^40, and accurate to a tenth.
 */
class Stretch {
  readonly size: number;
  /** Positions decided by one stretch. */
  readonly places: number;
  readonly #constant: number;
  readonly #twiddles: Twiddles;
  readonly #values: Complex;
  readonly #weights: Complex;
  readonly #text: Complex;
  readonly #sums: Complex;

  constructor(readonly core: readonly number[]) {
    this.size = 2 ** Math.ceil(Math.log2(Math.max(2 * core.length, 4096)));
    this.places = this.size - core.length + 1;
    this.#twiddles = twiddlesFor(this.size);
    this.#values = complex(this.size);
    this.#weights = complex(this.size);
    this.#text = complex(this.size);
    this.#sums = complex(this.size);
    let constant = 0;
    core.forEach((code, index) => {
      if (code === -1) return;
      // Reversed, so that a convolution becomes a correlation.
      const at = core.length - 1 - index;
      this.#values.re[at] = code - MIDDLE;
      this.#weights.re[at] = 1;
      constant += (code - MIDDLE) ** 2;
    });
    this.#constant = constant;
    transform(this.#values, this.#twiddles);
    transform(this.#weights, this.#twiddles);
  }

  firstIn(octets: string, start: number, last: number): number {
    this.#correlate(octets, start);
    const { re } = this.#sums;
    for (let place = start; place <= last; place++) {
      const sum = this.#constant + elementAt(re, place - start + this.core.length - 1) / this.size;
      if (sum < 0.5 && this.core.every((code, index) => fits(code, octets, place + index))) return place;
    }
    return -1;
  }

  /** One transform of t as the real and t^2 as the imaginary part; another returns the sum of the products. */
  #correlate(octets: string, start: number): void {
    const { size } = this;
    const [text, sums, values, weights] = [this.#text, this.#sums, this.#values, this.#weights];
    text.re.fill(0);
    text.im.fill(0);
    const length = Math.min(size, octets.length - start);
    for (let at = 0; at < length; at++) {
      const value = octets.charCodeAt(start + at) - MIDDLE;
      text.re[at] = value;
      text.im[at] = value * value;
    }
    transform(text, this.#twiddles);
    for (let at = 0; at < size; at++) {
      const other = (size - at) & (size - 1);
      const textRe = (elementAt(text.re, at) + elementAt(text.re, other)) / 2;
      const textIm = (elementAt(text.im, at) - elementAt(text.im, other)) / 2;
      const squareRe = (elementAt(text.im, at) + elementAt(text.im, other)) / 2;
      const squareIm = (elementAt(text.re, other) - elementAt(text.re, at)) / 2;
      const valueRe = -2 * elementAt(values.re, at);
      const valueIm = -2 * elementAt(values.im, at);
      const weightRe = elementAt(weights.re, at);
      const weightIm = elementAt(weights.im, at);
      sums.re[at] = textRe * valueRe - textIm * valueIm + squareRe * weightRe - squareIm * weightIm;
      // The conjugate, so that the transform is the inverse one.
      sums.im[at] = -(textRe * valueIm + textIm * valueRe + squareRe * weightIm + squareIm * weightRe);
    }
    transform(sums, this.#twiddles);
  }
}

interface Complex {
  readonly re: Float64Array;
  readonly im: Float64Array;
}

const complex = (size: number): Complex => ({ re: new Float64Array(size), im: new Float64Array(size) });

interface Twiddles {
  readonly cos: Float64Array;
  readonly sin: Float64Array;
}

function twiddlesFor(size: number): Twiddles {
  const [cos, sin] = [new Float64Array(size / 2), new Float64Array(size / 2)];
  for (let at = 0; at < size / 2; at++) {
    cos[at] = Math.cos((2 * Math.PI * at) / size);
    sin[at] = -Math.sin((2 * Math.PI * at) / size);
  }
  return { cos, sin };
}

/** The discrete Fourier transform in place, by Cooley and Tukey's algorithm for powers of two. */
function transform({ re, im }: Complex, { cos, sin }: Twiddles): void {
  const size = re.length;
  for (let at = 1, other = 0; at < size; at++) {
    let bit = size >> 1;
    for (; other & bit; bit >>= 1) other ^= bit;
    other ^= bit;
    if (at >= other) continue;
    const swappedRe = elementAt(re, at);
    const swappedIm = elementAt(im, at);
    re[at] = elementAt(re, other);
    im[at] = elementAt(im, other);
    re[other] = swappedRe;
    im[other] = swappedIm;
  }
  for (let half = 1; half < size; half *= 2) {
    const stride = size / (2 * half);
    for (let first = 0; first < size; first += 2 * half) {
      // Written out without tuples, which would be allocated in each of some ten million steps.
      for (let low = first, turn = 0; low < first + half; low++, turn += stride) {
        const high = low + half;
        const c = elementAt(cos, turn);
        const s = elementAt(sin, turn);
        const highRe = elementAt(re, high);
        const highIm = elementAt(im, high);
        const turnedRe = highRe * c - highIm * s;
        const turnedIm = highRe * s + highIm * c;
        const lowRe = elementAt(re, low);
        const lowIm = elementAt(im, low);
        re[high] = lowRe - turnedRe;
        im[high] = lowIm - turnedIm;
        re[low] = lowRe + turnedRe;
        im[low] = lowIm + turnedIm;
      }
    }
  }
}
