// The copy of a picture that the browser cannot show: ordered once, followed, given up.
import { describe, expect, it } from "vitest";
import type { JobView, NewJob } from "../../src/lib/api/jobs";
import { Pictures } from "../../src/lib/ui/state/pictures.svelte";

const job = (id: string, state: JobView["state"], progress: number, kind = "picture"): JobView => ({
  id,
  kind,
  state,
  progress,
  projectId: "p",
  title: "Picture of ferry",
  error: null,
  result: null,
  endedAt: null
});

function watched(answer: (orders: NewJob[]) => string | undefined) {
  const orders: NewJob[] = [];
  const pictures = new Pictures(() => ({
    start(order) {
      orders.push(order);
      return Promise.resolve(answer(orders));
    }
  }));
  return { orders, pictures };
}

describe("the copy of a video's picture", () => {
  it("is ordered when the video cannot be shown, and followed until it is there", async () => {
    const { orders, pictures } = watched(() => "j1");
    expect(pictures.copyOf("r")).toBeUndefined();
    await pictures.unseen("r");
    expect(orders).toEqual([{ kind: "picture", recordingId: "r" }]);
    expect(pictures.copyOf("r")).toEqual({ share: 0 });
    pictures.heard(job("j2", "running", 0.9));
    pictures.heard(job("j1", "running", 0.4));
    expect(pictures.copyOf("r")).toEqual({ share: 0.4 });
    pictures.heard(job("j1", "done", 1, "measure"));
    expect(pictures.copyOf("r")).toEqual({ share: 0.4 });
    pictures.heard(job("j1", "done", 1));
    expect(pictures.copyOf("r")).toBe("there");
    // The browser cannot show the copy either: it is not ordered again.
    await pictures.unseen("r");
    expect(pictures.copyOf("r")).toBe("none");
    expect(orders).toHaveLength(1);
  });

  it("that was done before its order was answered is there", async () => {
    const { pictures } = watched(() => {
      pictures.heard(job("j1", "done", 1));
      return "j1";
    });
    await pictures.unseen("r");
    expect(pictures.copyOf("r")).toBe("there");
  });

  it.each(["failed", "cancelled"] as const)(
    "is given up when its job is %s, or was refused",
    async (state) => {
      const { pictures } = watched((orders) => (orders.length === 1 ? "j1" : undefined));
      await pictures.unseen("r");
      pictures.heard(job("j1", state, 0.3));
      expect(pictures.copyOf("r")).toBe("none");
      await pictures.unseen("other");
      expect(pictures.copyOf("other")).toBe("none");
    }
  );
});
