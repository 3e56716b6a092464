/** The number that would stand at place k, were the first `count` sorted; Hoare 1961, Algorithm 65: Find,
 *  doi:10.1145/366622.366647. Changes their order. @param k  0…count − 1; none of the numbers may be NaN */
export function select(values: Float32Array | Int32Array, count: number, k: number): number {
  let low = 0;
  let high = count - 1;
  while (low < high) {
    const pivot = values[k];
    let i = low;
    let j = high;
    while (i <= j) {
      while (values[i] < pivot) i++;
      while (pivot < values[j]) j--;
      if (i > j) break;
      const v = values[i];
      values[i++] = values[j];
      values[j--] = v;
    }
    if (j < k) low = i;
    if (k < i) high = j;
  }
  return values[k];
}
