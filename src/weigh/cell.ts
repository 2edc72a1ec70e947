/** What is kept of one measure of some people: enough for every figure, and it can be put together with others. */
export interface CellSums {
  readonly people: number;
  readonly mean: number;
  /** Σ(y−ȳ)². */
  readonly m2: number;
  /** People whose y is not 0. */
  readonly nonzero: number;
  /** The y that is farthest from 0. */
  readonly largest: number;
  /** Of a ratio: the same of what is divided by, and Σ(x−x̄)(y−ȳ). */
  readonly meanX: number;
  readonly m2X: number;
  readonly nonzeroX: number;
  readonly cxy: number;
}

/**
 * Sums of y (and x) around their means, one person after the other and cell by cell. Sums of squares would cancel.
 * T. F. Chan, G. H. Golub, R. J. LeVeque: “Updating formulae and a pairwise algorithm for computing sample variances”, 1979.
 */
export class Cell implements CellSums {
  people = 0;
  mean = 0;
  m2 = 0;
  nonzero = 0;
  largest = 0;
  meanX = 0;
  m2X = 0;
  nonzeroX = 0;
  cxy = 0;

  add(y: number, x = 0): void {
    this.people++;
    const dy = y - this.mean;
    const dx = x - this.meanX;
    this.mean += dy / this.people;
    this.meanX += dx / this.people;
    this.m2 += dy * (y - this.mean);
    this.m2X += dx * (x - this.meanX);
    this.cxy += dx * (y - this.mean);
    if (y !== 0) this.nonzero++;
    if (x !== 0) this.nonzeroX++;
    if (Math.abs(y) > Math.abs(this.largest)) this.largest = y;
  }

  merge(other: CellSums): void {
    const people = this.people + other.people;
    if (other.people === 0) return;
    const part = other.people / people;
    const cross = this.people * part;
    const dy = other.mean - this.mean;
    const dx = other.meanX - this.meanX;
    this.mean += dy * part;
    this.meanX += dx * part;
    this.m2 += other.m2 + dy * dy * cross;
    this.m2X += other.m2X + dx * dx * cross;
    this.cxy += other.cxy + dx * dy * cross;
    this.nonzero += other.nonzero;
    this.nonzeroX += other.nonzeroX;
    if (Math.abs(other.largest) > Math.abs(this.largest)) this.largest = other.largest;
    this.people = people;
  }
}

/** Several cells as one. */
export function merged(cells: Iterable<CellSums>): Cell {
  const all = new Cell();
  for (const cell of cells) all.merge(cell);
  return all;
}
