// How much finished sound lies ready: as little as the machine allows, so that changes are heard soon, and more as soon as it gets scarce.

/** Seconds. */
const FIRST = 0.018;
const LEAST = 0.012;
const MOST = 0.09;
/** So much more of it for a core that is all taken: what is run in beside takes as much again. */
const LOADED = 0.06;
/** What is left in the ring at its emptiest must be more than this: else more is kept ready. */
const SCARCE = 0.004;
const MORE = 0.004;
/** How much more is kept after some was missing. */
const MUCH_MORE = 0.012;
/** What was missing once will be again: so much more is kept at least from then on, up to a limit, until so many looks found none missing. */
const WARY = 0.008;
const WARIEST = 0.032;
const FORGIVEN = 200;
/** Less is kept when that would leave this much, by steps. */
const ENOUGH = 0.007;
const LESS = 0.008;
/** So many looks in a row must find enough before less is kept. */
const CALM = 10;

export class Ahead {
  #seconds = FIRST;
  #calm = 0;
  #least = Infinity;
  #load = 0;
  #wary = 0;
  #unbroken = 0;

  /** Seconds of finished sound to keep ready. */
  get seconds(): number {
    return this.#seconds;
  }

  /**
   * @param left how little was left at the emptiest moment since the last look, in seconds
   * @param load share of one core that the mix has taken since
   */
  look(left: number, load: number): void {
    // One costly moment, as what runs for the first time, is no load.
    this.#remember(left);
    const least = Math.min(MOST, LEAST + this.#wary + LOADED * Math.min(load, this.#load));
    this.#load = load;
    this.#seconds = Math.max(this.#seconds, least);
    if (left < SCARCE) this.#seconds = Math.min(MOST, this.#seconds + (left > 0 ? MORE : MUCH_MORE));
    this.#calm = left < SCARCE ? 0 : this.#calm + 1;
    this.#least = this.#calm === 0 ? Infinity : Math.min(this.#least, left);
    if (this.#calm < CALM) return;
    const spare = Math.min(LESS, this.#least - ENOUGH);
    if (spare > 0) this.#seconds = Math.max(least, this.#seconds - spare);
    this.#calm = 0;
    this.#least = Infinity;
  }

  #remember(left: number): void {
    if (left <= 0) this.#wary = Math.min(WARIEST, this.#wary + WARY);
    this.#unbroken = left > 0 ? this.#unbroken + 1 : 0;
    if (this.#unbroken < FORGIVEN) return;
    this.#wary = Math.max(0, this.#wary - WARY);
    this.#unbroken = 0;
  }
}
