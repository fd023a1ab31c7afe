// The reference for loudness: libebur128 on raw interleaved stereo f32. Usage: loudness FILE RATE MODE (i: integrated and range, t: with true peak).
// Prints the seconds of processor time spent in the library, then integrated loudness, range and true peak.
#include <ebur128.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

int main(int argc, char **argv) {
  if (argc != 4) return 2;
  FILE *f = fopen(argv[1], "rb");
  if (!f) return 1;
  fseek(f, 0, SEEK_END);
  long bytes = ftell(f);
  rewind(f);
  float *x = malloc(bytes);
  if (!x || fread(x, 1, bytes, f) != (size_t)bytes) return 1;
  size_t frames = bytes / 8;
  int peak = argv[3][0] == 't';
  ebur128_state *s = ebur128_init(2, atoi(argv[2]), EBUR128_MODE_I | EBUR128_MODE_LRA | (peak ? EBUR128_MODE_TRUE_PEAK : 0));
  clock_t begin = clock();
  for (size_t at = 0; at < frames; at += 4800) {
    size_t n = frames - at < 4800 ? frames - at : 4800;
    ebur128_add_frames_float(s, x + 2 * at, n);
  }
  double loudness = 0, range = 0, left = 0, right = 0;
  ebur128_loudness_global(s, &loudness);
  ebur128_loudness_range(s, &range);
  if (peak) {
    ebur128_true_peak(s, 0, &left);
    ebur128_true_peak(s, 1, &right);
  }
  double seconds = (double)(clock() - begin) / CLOCKS_PER_SEC;
  printf("%.6f %.4f %.4f %.4f\n", seconds, loudness, range, 20 * log10(left > right ? left : right));
  return 0;
}
