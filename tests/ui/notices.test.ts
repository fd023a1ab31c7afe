// Messages: which of them is seen.
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { notices } from "../../src/lib/ui/shared/notices.svelte";

const shown = () => notices.groups.map(({ kind, notices: some }) => [kind, ...some.map((n) => n.text)]);

beforeEach(() => {
  vi.useFakeTimers();
});

afterEach(() => {
  notices.dismiss(notices.list.map((n) => n.id));
  vi.useRealTimers();
});

describe("messages", () => {
  it("the kind of the newest comes first, then problems, then the rest", () => {
    notices.fault("The disk is full.");
    notices.news("Mix.wav is ready.", { href: "/mix", label: "Save the file" });
    expect(shown()).toEqual([
      ["success", "Mix.wav is ready."],
      ["error", "The disk is full."]
    ]);
    notices.news("The treatment is copied.");
    expect(shown().map(([kind]) => kind)).toEqual(["info", "error", "success"]);
    notices.fault(new Error("There is no such step."));
    expect(shown()[0]).toEqual(["error", "There is no such step.", "The disk is full."]);
  });

  it("what goes wrong again is one message, and the newest", () => {
    notices.fault("No room.");
    notices.fault("No sound.");
    notices.fault("No room.");
    expect(shown()).toEqual([["error", "No room.", "No sound."]]);
  });

  it("news goes by itself, what can be taken back a little later; problems and files stay", () => {
    notices.fault("No room.");
    notices.news("Mix.wav is ready.", { href: "/mix", label: "Save the file" });
    notices.news("Copied.");
    notices.offer("Removed.", "Take it back", () => undefined);
    vi.advanceTimersByTime(7000);
    expect(notices.list.map((n) => n.text)).toEqual(["No room.", "Mix.wav is ready.", "Removed."]);
    vi.advanceTimersByTime(14000);
    expect(notices.list.map((n) => n.text)).toEqual(["No room.", "Mix.wav is ready."]);
  });
});
