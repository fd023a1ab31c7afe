// Rows of files on their way: what is shown of thousands changes a few times a second, what is known at once.
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { ImportRows } from "../../src/lib/ui/state/importRows.svelte";

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
});

it("are known at once, and shown together", () => {
  const rows = new ImportRows();
  for (let i = 0; i < 2000; i++) rows.put(String(i), { name: `Take ${i}.wav` });
  expect([rows.open, rows.shown.length]).toEqual([2000, 0]);
  vi.runOnlyPendingTimers();
  expect(rows.shown.map(({ name }) => name)).toEqual(Array.from({ length: 2000 }, (_, i) => `Take ${i}.wav`));
  const [before] = [rows.shown];
  rows.put("7", { state: "sending", progress: 0.5 });
  rows.put("7", { state: "decoding", progress: 0 });
  vi.advanceTimersByTime(350);
  expect(rows.shown).toBe(before);
  vi.advanceTimersByTime(60);
  expect(rows.shown[7]).toMatchObject({ key: "7", name: "Take 7.wav", state: "decoding", progress: 0 });
});

it("of a few files are shown sooner", () => {
  const rows = new ImportRows();
  rows.put("a", { name: "Quay.wav" });
  vi.runOnlyPendingTimers();
  rows.put("a", { state: "sending" });
  vi.advanceTimersByTime(110);
  expect(rows.shown[0].state).toBe("sending");
});

it("count those that have not ended, however they end or go", () => {
  const rows = new ImportRows();
  for (const key of ["a", "b", "c", "d"]) rows.put(key, { name: key });
  rows.put("a", { state: "done" });
  rows.put("a", { state: "done" });
  rows.put("b", { state: "refused", reason: "it is empty" });
  rows.remove("c");
  rows.remove("c");
  expect([rows.open, rows.unfinished.map(({ key }) => key)]).toEqual([1, ["d"]]);
  rows.keep(({ state }) => state === "refused");
  vi.runOnlyPendingTimers();
  expect([rows.open, rows.shown.map(({ key }) => key)]).toEqual([0, ["b"]]);
});
