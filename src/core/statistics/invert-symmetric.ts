/** Inverse of a symmetric, positive definite matrix, and the logarithm of its determinant: by Gauss and Jordan, without
 *  pivoting, which it does not need. @param given  rows; not changed */
export function invertSymmetric(given: readonly ArrayLike<number>[]): {
  inverse: Float64Array[];
  logDet: number;
} {
  const a = given.map((row) => Float64Array.from(row));
  const inverse = a.map((_, r) => Float64Array.from(a, (__, c) => (r === c ? 1 : 0)));
  let logDet = 0;
  for (let k = 0; k < a.length; k++) {
    const pivot = a[k][k];
    logDet += Math.log(pivot);
    for (let c = 0; c < a.length; c++) {
      a[k][c] /= pivot;
      inverse[k][c] /= pivot;
    }
    for (let r = 0; r < a.length; r++) {
      if (r === k) continue;
      const by = a[r][k];
      for (let c = 0; c < a.length; c++) {
        a[r][c] -= by * a[k][c];
        inverse[r][c] -= by * inverse[k][c];
      }
    }
  }
  return { inverse, logDet };
}
