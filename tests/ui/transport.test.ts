import { beforeEach, describe, expect, it, vi } from "vitest";
import { findClip, type ResolvedClip } from "../../src/lib/core/session/lookup";
import { notices } from "../../src/lib/ui/shared/notices.svelte";
import type { Heard } from "../../src/lib/core/render/compare";
import type { Selection } from "../../src/lib/ui/state/selection.svelte";
import type { Session } from "../../src/lib/ui/state/session.svelte";
import { Transport } from "../../src/lib/ui/state/transport.svelte";
import { FakePlayer } from "../support/fakePlayer";
import { clipOf, documentWith } from "../core/signals";

vi.mock("$lib/playback/player", async () => ({
  Player: (await import("../support/fakePlayer")).FakePlayer
}));

const doc = documentWith(
  clipOf("a", 48000, { gainDb: -2, steps: [{ id: "g", effect: "gain", params: { gainDb: 12 } }] })
);
const session = { document: doc, shown: doc } as unknown as Session;
const selection = {
  range: null as { from: number; to: number } | null,
  clip: undefined as ResolvedClip | undefined,
  get subject() {
    return { owner: { table: "clips", id: this.clip?.id }, clip: this.clip };
  }
};
const hearing = { heard: null as Heard | null };
const trials = { now: null, end: () => undefined };
let transport: Transport;
const player = () => FakePlayer.last;

beforeEach(() => {
  vi.stubGlobal("requestAnimationFrame", () => 1);
  vi.stubGlobal("cancelAnimationFrame", () => undefined);
  for (const notice of notices.list) notices.dismiss([notice.id]);
  selection.range = null;
  selection.clip = findClip(doc, "clip-a")?.clip;
  hearing.heard = null;
  transport = new Transport(session, selection as unknown as Selection, hearing, trials);
});

describe("the transport", () => {
  it("plays from the playhead and stops where it is", () => {
    transport.locate(1234.4);
    transport.toggle();
    expect(player().calls).toEqual([
      ["locate", 1234],
      ["play", 1234]
    ]);
    expect(transport.playing).toBe(true);
    player().position = 5000;
    transport.toggle();
    expect([transport.playing, transport.position]).toEqual([false, 5000]);
  });

  it("begins at the loop's start when the playhead lies outside, and gives the loop to the player", () => {
    selection.range = { from: 100, to: 200 };
    transport.looping = true;
    transport.giveLoop();
    expect(player().loop).toEqual({ from: 100, to: 200 });
    transport.locate(500);
    transport.play();
    transport.locate(150);
    transport.play();
    expect(player().calls.filter(([what]) => what === "play")).toEqual([
      ["play", 100],
      ["play", 150]
    ]);
  });

  it("plays a selected range, from the playhead when that lies in it, and stops at its end", () => {
    selection.range = { from: 100, to: 200 };
    transport.locate(500);
    transport.play();
    expect([player().calls.at(-1), player().until]).toEqual([["play", 100], 200]);
    transport.locate(150);
    transport.play();
    expect([player().calls.at(-1), player().until]).toEqual([["play", 150], 200]);
    selection.range = null;
    transport.locate(150);
    transport.play();
    expect([player().calls.at(-1), player().until]).toEqual([["play", 150], null]);
  });

  it("gives the player what is heard instead of the document", () => {
    transport.giveDocument();
    expect(player().document).toBe(doc);
    hearing.heard = {
      owners: [{ table: "clips", id: "clip-a" }],
      steps: [],
      gainDb: 12,
      difference: false
    };
    transport.giveDocument();
    expect(player().document?.get("clips", "clip-a")).toMatchObject({ chain: null, gainDb: 10 });
  });

  it("plays a preview round and round until it is stopped; then the loop is the range's again", () => {
    selection.range = { from: 100, to: 200 };
    transport.looping = true;
    transport.playRound(1000, 3000);
    expect([player().calls.at(-1), player().loop]).toEqual([["play", 1000], { from: 1000, to: 3000 }]);
    expect(player().until).toBeNull();
    transport.toggle();
    expect(transport.preview).toBeNull();
    transport.giveLoop();
    expect(player().loop).toEqual({ from: 100, to: 200 });
  });

  it("says what went wrong, and is then in the state that it is in", async () => {
    player().trouble = new Error("No sound can be played here.");
    transport.play();
    await vi.waitFor(() => expect(notices.list.map((n) => n.text)).toEqual(["No sound can be played here."]));
    expect(transport.playing).toBe(false);
    player().events.onfault("The audio of the recording is missing.");
    expect(notices.list).toHaveLength(2);
    player().events.onpreparing(0.3);
    expect(transport.preparing).toBe(0.3);
    transport.close();
  });
});
