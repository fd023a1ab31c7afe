/** Solves A x = b in place by elimination with pivots; n × n, row by row. False when it is singular. */
export function solve(A: Float64Array, b: Float64Array, n: number): boolean {
  for (let c = 0; c < n; c++) {
    let pivot = c;
    for (let r = c + 1; r < n; r++) if (Math.abs(A[r * n + c]) > Math.abs(A[pivot * n + c])) pivot = r;
    if (A[pivot * n + c] === 0) return false;
    if (pivot !== c) {
      for (let k = 0; k < n; k++) [A[c * n + k], A[pivot * n + k]] = [A[pivot * n + k], A[c * n + k]];
      [b[c], b[pivot]] = [b[pivot], b[c]];
    }
    for (let r = c + 1; r < n; r++) {
      const f = A[r * n + c] / A[c * n + c];
      if (f === 0) continue;
      for (let k = c; k < n; k++) A[r * n + k] -= f * A[c * n + k];
      b[r] -= f * b[c];
    }
  }
  for (let r = n - 1; r >= 0; r--) {
    for (let k = r + 1; k < n; k++) b[r] -= A[r * n + k] * b[k];
    b[r] /= A[r * n + r];
  }
  return true;
}
