import { randomExponential, randomGamma, randomLcg, randomNormal, randomPoisson } from 'd3';

/** Chance with a seed: everything that a market draws comes from one of these. */
export class Chance {
  private readonly source: () => number;
  private readonly gauss: () => number;
  private readonly poissonOf: (mean: number) => () => number;
  private readonly gammaOf: (shape: number) => () => number;

  constructor(seed: number) {
    this.source = randomLcg(Math.abs(Math.sin(seed * 12.9898 + 78.233)));
    for (let i = 0; i < 20; i++) this.source();
    this.gauss = randomNormal.source(this.source)(0, 1);
    const poisson = randomPoisson.source(this.source);
    const gamma = randomGamma.source(this.source);
    this.poissonOf = (mean) => poisson(mean);
    this.gammaOf = (shape) => gamma(shape);
    this.wait = randomExponential.source(this.source)(1);
  }

  /** Exponential with mean 1. */
  readonly wait: () => number;

  /** Between 0 and 1. */
  unit(): number {
    return this.source();
  }

  between(low: number, high: number): number {
    return low + (high - low) * this.source();
  }

  whole(below: number): number {
    return Math.floor(this.source() * below);
  }

  normal(): number {
    return this.gauss();
  }

  poisson(mean: number): number {
    return mean > 0 ? this.poissonOf(mean)() : 0;
  }

  /** Gamma with mean 1. */
  gamma(shape: number): number {
    return this.gammaOf(shape)() / shape;
  }
}
