import { describe, expect, it } from "vitest";
import { Autoregression } from "../../src/lib/core/audio/autoregression";
import { Buffer } from "../../src/lib/core/kernels/memory";
import { noise } from "./signals";

const N = 2000;
const ORDER = 8;

/** x[i] = 1.6 x[i - 1] - 0.9 x[i - 2] + e[i], after ORDER zeros. */
function process(): { x: Buffer; e: Float32Array } {
  const e = noise(N, 0.1, 3);
  const x = new Buffer((ORDER + N) * 8);
  const samples = x.f64;
  for (let i = 0; i < N; i++)
    samples[ORDER + i] = 1.6 * samples[ORDER + i - 1] - 0.9 * samples[ORDER + i - 2] + e[i];
  return { x, e };
}

describe("autoregression", () => {
  it.each(["fitCorrelation", "fitBurg"] as const)("%s finds the process that made a sound", (fit) => {
    const { x, e } = process();
    const model = new Autoregression(ORDER, N, 16);
    expect(model[fit](x.ptr + ORDER * 8, N)).toBe(true);
    let wrong = 0;
    let all = 0;
    for (let i = 100; i < N - 100; i++) {
      wrong += (model.errorAt(x.f64, ORDER + i, 1) - e[i]) ** 2;
      all += e[i] ** 2;
    }
    // Each of 8 coefficients costs about 1 / N of the power.
    expect(wrong / all).toBeLessThan(0.01);
  });

  it("gives the errors of all samples at once, from the past and from the future", () => {
    const { x } = process();
    const model = new Autoregression(ORDER, N, 16);
    model.fitBurg(x.ptr + ORDER * 8, N);
    const past = new Buffer(400 * 8);
    const future = new Buffer(400 * 8);
    model.errors(x.ptr + 500 * 8, 400, past.ptr, future.ptr);
    for (let i = 0; i < 400; i++) {
      expect(past.f64[i]).toBeCloseTo(Math.abs(model.errorAt(x.f64, 500 + i, 1)), 12);
      expect(future.f64[i]).toBeCloseTo(Math.abs(model.errorAt(x.f64, 500 + i, -1)), 12);
    }
  });

  it("fills a gap in a chord that it has modelled", () => {
    const x = new Buffer(N * 8);
    const hiss = noise(N, 1e-5, 4);
    const samples = x.f64;
    for (let i = 0; i < N; i++) samples[i] = Math.sin(0.05 * i) + 0.5 * Math.sin(0.31 * i + 1) + hiss[i];
    const whole = samples.slice();
    const model = new Autoregression(16, N, 16);
    model.fitBurg(x.ptr, N);
    samples.fill(0, 1000, 1016);
    model.interpolate(samples, 1000, 1016);
    for (let i = 1000; i < 1016; i++) expect(Math.abs(samples[i] - whole[i])).toBeLessThan(1e-3);
  });

  it("says that silence has no model", () => {
    const x = new Buffer((ORDER + N) * 8);
    const model = new Autoregression(ORDER, N, 16);
    expect(model.fitCorrelation(x.ptr + ORDER * 8, N)).toBe(false);
    expect(model.fitBurg(x.ptr, N)).toBe(false);
  });
});
