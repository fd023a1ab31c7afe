// The reference for the waveform overview: a plain loop, compiled with -O2. Least and largest sample of bins of 256 mono samples.
// Usage: overview SAMPLES ROUNDS. Prints the seconds of processor time.
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

int main(int argc, char **argv) {
  if (argc != 3) return 2;
  size_t n = strtoul(argv[1], 0, 10);
  int rounds = atoi(argv[2]);
  float *x = malloc(n * 4), *out = malloc(n / 256 * 8 + 8);
  for (size_t i = 0; i < n; i++) x[i] = (float)rand() / RAND_MAX - 0.5f;
  double sum = 0;
  clock_t begin = clock();
  for (int k = 0; k < rounds; k++) {
    for (size_t bin = 0; bin < n / 256; bin++) {
      float low = x[bin * 256], high = low;
      for (size_t i = 1; i < 256; i++) {
        float v = x[bin * 256 + i];
        if (v < low) low = v;
        if (v > high) high = v;
      }
      out[2 * bin] = low;
      out[2 * bin + 1] = high;
    }
    sum += out[k % 100];
  }
  printf("%.6f %f\n", (double)(clock() - begin) / CLOCKS_PER_SEC, sum);
  return 0;
}
