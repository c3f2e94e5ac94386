/** The density of the standard normal distribution. */
function density(z: number): number {
  return Math.exp((-z * z) / 2) / Math.sqrt(2 * Math.PI);
}

/** The share of the standard normal distribution below z, to 1.5e-7 (Abramowitz and Stegun, 7.1.26). */
export function below(z: number): number {
  const x = Math.abs(z) / Math.SQRT2;
  const t = 1 / (1 + 0.3275911 * x);
  const poly = t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))));
  const half = (1 - poly * Math.exp(-x * x)) / 2;
  return z >= 0 ? 0.5 + half : 0.5 - half;
}

/** The z below which a share p of the standard normal distribution lies, found by bisection; p within (0, 1). */
export function quantile(p: number): number {
  let low = -6;
  let high = 6;
  for (let i = 0; i < 40; i += 1) {
    const middle = (low + high) / 2;
    if (below(middle) < p) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

/** The mean and the variance of a standard normal variable that is known to lie above z. */
export function above(z: number): { readonly mean: number; readonly variance: number } {
  const rest = Math.max(1e-9, 1 - below(z));
  // Far out the ratio tends to z + 1/z, where the subtraction above has no digits left.
  const mean = z > 4.5 ? z + 1 / z : density(z) / rest;
  return { mean, variance: Math.max(0.01, 1 + z * mean - mean * mean) };
}
