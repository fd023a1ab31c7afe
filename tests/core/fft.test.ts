import { describe, expect, it } from "vitest";
import { Fft } from "../../src/lib/core/audio/fft";
import { Buffer } from "../../src/lib/core/kernels/memory";
import { spectrumOf } from "./analysis";
import { noise } from "./signals";

describe("FFT", () => {
  it.each([64, 128, 256, 2048, 8192, 65536])(
    "of %i points equals a plain transform in double precision",
    (n) => {
      const x = noise(n, 1, 5);
      const y = noise(n, 1, 6);
      const data = new Buffer(n * 8);
      data.f32.set(x);
      data.f32.set(y, n);
      const fft = new Fft(n);
      fft.forward(data.ptr, data.ptr + n * 4);
      const a = spectrumOf(x);
      const b = spectrumOf(y);
      let error = 0;
      let power = 0;
      for (let k = 0; k < n; k++) {
        const re = a.re[k] - b.im[k];
        const im = a.im[k] + b.re[k];
        error += (data.f32[k] - re) ** 2 + (data.f32[n + k] - im) ** 2;
        power += re * re + im * im;
      }
      expect(10 * Math.log10(error / power)).toBeLessThan(-130);
      fft.forward(data.ptr + n * 4, data.ptr);
      for (let i = 0; i < n; i += 7) expect(Math.abs(data.f32[i] / n - x[i])).toBeLessThan(1e-6);
      fft.release();
      data.release();
    }
  );

  it("refuses lengths that it cannot do", () => {
    for (const n of [0, 32, 100, 131072]) expect(() => new Fft(n)).toThrow(`${n} points`);
  });
});
